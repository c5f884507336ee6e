//! What other machines are spoken to with: the shop's own certificate, or one made on the spot, with a fingerprint to compare.

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::{Context, ensure};
use jiff::{Span, Zoned, civil::Date};
use rcgen::{CertificateParams, DnType, KeyPair, date_time_ymd};
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use sha2::{Digest, Sha256};

/// Tablets take no certificate that lasts much more than two years.
const LASTS_DAYS: i64 = 800;
/// So long before its end another is made.
const RENEWED_DAYS: i64 = 30;
const FOLDER: &str = "tls";

/// A certificate with its key, and what others see of it.
pub(crate) struct Identity {
    pub(crate) config: ServerConfig,
    pub(crate) fingerprint: String,
}

/// The shop's own, from two PEM files.
///
/// # Errors
/// With what is wrong with them.
pub(crate) fn own(certificate: &Path, key: &Path) -> anyhow::Result<Identity> {
    let read =
        |path: &Path| fs::read(path).with_context(|| format!("{} cannot be read", path.display()));
    identity(&read(certificate)?, &read(key)?)
        .with_context(|| format!("{} and {}", certificate.display(), key.display()))
}

/// The one kept beside the data for these names; made where there is none, or where it is about to end.
///
/// # Errors
/// When it cannot be made or kept.
pub(crate) fn made(data: &Path, names: &[String]) -> anyhow::Result<Identity> {
    let folder = data.join(FOLDER);
    let [certificate, key, holds] =
        ["certificate.pem", "key.pem", "names.txt"].map(|name| folder.join(name));
    let today = Zoned::now().date();
    let kept = fs::read_to_string(&holds).unwrap_or_default();
    let until = kept
        .lines()
        .next()
        .and_then(|line| line.parse::<Date>().ok());
    let soon = today.checked_add(Span::new().days(RENEWED_DAYS))?;
    let same = kept.lines().skip(1).eq(names.iter().map(String::as_str));
    if !(same && until.is_some_and(|until| until > soon)) {
        make(&folder, names, today, [&certificate, &key, &holds])?;
    }
    own(&certificate, &key)
}

fn make(folder: &Path, names: &[String], today: Date, files: [&PathBuf; 3]) -> anyhow::Result<()> {
    let until = today.checked_add(Span::new().days(LASTS_DAYS))?;
    let before = today.yesterday()?;
    let mut params =
        CertificateParams::new(names).context("these are no names for a certificate")?;
    params
        .distinguished_name
        .push(DnType::CommonName, "Gradimen bench");
    let at = |day: Date| -> anyhow::Result<_> {
        Ok(date_time_ymd(
            day.year().into(),
            u8::try_from(day.month())?,
            u8::try_from(day.day())?,
        ))
    };
    (params.not_before, params.not_after) = (at(before)?, at(until)?);
    let key = KeyPair::generate()?;
    let certificate = params.self_signed(&key)?;
    fs::create_dir_all(folder)?;
    let holds = format!("{until}\n{}\n", names.join("\n"));
    for (path, text) in files
        .into_iter()
        .zip([certificate.pem(), key.serialize_pem(), holds])
    {
        kept(path, &text).with_context(|| format!("{} cannot be written", path.display()))?;
    }
    Ok(())
}

/// Nobody else's.
fn kept(path: &Path, text: &str) -> std::io::Result<()> {
    fs::remove_file(path).ok();
    let mut options = fs::OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    let mut file = options.open(path)?;
    file.write_all(text.as_bytes())?;
    file.sync_all()
}

fn identity(certificate: &[u8], key: &[u8]) -> anyhow::Result<Identity> {
    let chain: Result<Vec<_>, _> = CertificateDer::pem_slice_iter(certificate).collect();
    let chain = chain.context("the certificate is no PEM file")?;
    ensure!(!chain.is_empty(), "there is no certificate in the file");
    let key = PrivateKeyDer::from_pem_slice(key).context("the key is no PEM file")?;
    let sum = Sha256::digest(&chain[0]);
    let pairs: Vec<String> = sum.iter().map(|byte| format!("{byte:02X}")).collect();
    let provider = rustls::crypto::ring::default_provider();
    let config = ServerConfig::builder_with_provider(provider.into())
        .with_safe_default_protocol_versions()?
        .with_no_client_auth()
        .with_single_cert(chain, key)
        .context("certificate and key do not belong together")?;
    Ok(Identity {
        config,
        fingerprint: pairs.join(":"),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_certificate_is_made_once_and_again_for_other_names() {
        let data = tempfile::tempdir().unwrap();
        let names = ["bench.local".to_owned(), "192.168.7.2".to_owned()];
        let first = made(data.path(), &names).unwrap().fingerprint;
        assert_eq!(first.len(), 32 * 3 - 1);
        assert_eq!(made(data.path(), &names).unwrap().fingerprint, first);
        assert_ne!(made(data.path(), &names[..1]).unwrap().fingerprint, first);
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            let key = fs::metadata(data.path().join("tls/key.pem")).unwrap();
            assert_eq!(key.permissions().mode() & 0o077, 0);
        }
    }

    #[test]
    fn what_does_not_belong_together_is_refused() {
        let (one, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        for data in [&one, &other] {
            made(data.path(), &["bench.local".to_owned()]).unwrap();
        }
        let file = |data: &tempfile::TempDir, name: &str| data.path().join("tls").join(name);
        let (certificate, key) = (file(&one, "certificate.pem"), file(&other, "key.pem"));
        assert!(own(&certificate, &key).is_err());
        assert!(own(&key, &certificate).is_err());
        assert!(own(&certificate, Path::new("nowhere.pem")).is_err());
    }
}
