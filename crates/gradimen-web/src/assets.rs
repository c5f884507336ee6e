//! Styles, fonts and scripts from inside the binary, under a path that names their contents.

use std::sync::LazyLock;

use mime_guess::Mime;
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// Short fingerprint of all assets together: one changes, all are fetched anew.
static PRINT: LazyLock<String> = LazyLock::new(|| {
    let mut sum = 0_u64;
    for name in Assets::iter() {
        if let Some(file) = Assets::get(&name) {
            for byte in file.metadata.sha256_hash() {
                sum = sum.rotate_left(5) ^ u64::from(byte).wrapping_mul(0x9e37_79b9_7f4a_7c15);
            }
        }
    }
    format!("{sum:016x}")
});

/// Where an asset is fetched from.
pub(crate) fn path(name: &str) -> String {
    format!("/assets/{}/{name}", *PRINT)
}

/// An asset by its name: what kind of file it is, and its bytes.
pub(crate) fn find(name: &str) -> Option<(Mime, Vec<u8>)> {
    let file = Assets::get(name)?;
    let kind = mime_guess::from_path(name).first_or_octet_stream();
    Some((kind, file.data.into_owned()))
}
