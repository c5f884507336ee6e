//! The names of the data's files, and how they are made: nobody else's, and on the disk when they have their name.

use std::fs::{DirBuilder, File, OpenOptions};
use std::path::{Path, PathBuf};

use jiff::Timestamp;

use crate::StoreError;

/// Name of the one file of data.
pub(crate) const FILE: &str = "gradimen.db";
/// What takes the file's place at the next start.
pub(crate) const NEXT: &str = "gradimen.next.db";

/// What the file system said of a file.
pub(crate) fn failed(path: &Path) -> impl Fn(std::io::Error) -> StoreError + '_ {
    |error| StoreError::File {
        path: path.to_owned(),
        error,
    }
}

/// A file that is ours alone: made empty where there is none. What belongs to it gets the same from SQLite.
pub(crate) fn private(path: &Path) -> Result<(), StoreError> {
    let of = |error| StoreError::File {
        path: path.to_owned(),
        error,
    };
    let mut options = OpenOptions::new();
    options.write(true).create(true).truncate(false);
    #[cfg(unix)]
    {
        use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
        options.mode(0o600);
        let file = options.open(path).map_err(of)?;
        // One that was here before there was such care.
        let mut permissions = file.metadata().map_err(of)?.permissions();
        if permissions.mode() & 0o077 != 0 {
            permissions.set_mode(0o600);
            file.set_permissions(permissions).map_err(of)?;
        }
    }
    #[cfg(not(unix))]
    options.open(path).map_err(of)?;
    Ok(())
}

/// A folder, and those above it, made where there is none: ours alone.
pub(crate) fn private_folder(path: &Path) -> Result<(), StoreError> {
    let mut builder = DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::DirBuilderExt;
        builder.mode(0o700);
    }
    builder.create(path).map_err(|error| StoreError::File {
        path: path.to_owned(),
        error,
    })
}

/// Brings the names in a folder to the disk, where the system can.
pub(crate) fn durable(folder: &Path) {
    if let Ok(folder) = File::open(folder) {
        folder.sync_all().ok();
    }
}

/// Puts what waits in the file's place; what was there is set aside under the hour it was, with all that belongs to it. With the
/// lock in hand, before the file is opened.
pub(crate) fn take_place(folder: &Path, now: Timestamp) -> Result<Option<PathBuf>, StoreError> {
    let next = folder.join(NEXT);
    if !next.exists() {
        return Ok(None);
    }
    let stamp = now.strftime("%Y%m%dT%H%M%SZ");
    let aside = folder.join(format!("gradimen-before-{stamp}.db"));
    for end in ["", "-wal", "-shm"] {
        let of = |path: &Path| {
            let mut name = path.as_os_str().to_owned();
            name.push(end);
            PathBuf::from(name)
        };
        let (from, to) = (of(&folder.join(FILE)), of(&aside));
        if from.exists() {
            std::fs::rename(&from, &to).map_err(failed(&from))?;
        }
    }
    let file = folder.join(FILE);
    std::fs::rename(&next, &file).map_err(failed(&next))?;
    durable(folder);
    Ok(Some(aside))
}
