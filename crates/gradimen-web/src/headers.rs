//! What every answer carries beside what it says.

/// Everything comes from this process: scripts, styles, fonts; nothing is framed or sent elsewhere.
const CONTENT_POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; \
    img-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// What every answer carries.
pub(crate) const HEADERS: [(&str, &str); 6] = [
    ("Content-Security-Policy", CONTENT_POLICY),
    ("X-Content-Type-Options", "nosniff"),
    ("Referrer-Policy", "same-origin"),
    ("Cross-Origin-Opener-Policy", "same-origin"),
    ("Cross-Origin-Resource-Policy", "same-origin"),
    (
        "Permissions-Policy",
        "camera=(), geolocation=(), microphone=(self)",
    ),
];
