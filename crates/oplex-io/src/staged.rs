//! Files that are there as a whole or not at all: what is written stands beside them until it is complete.

use std::fs::{File, Permissions};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Mutex;

use tempfile::Builder;

/// How the names of files begin that are not complete.
pub(crate) const PREFIX: &str = ".oplex-";

/// Files that are being written, so that they can be taken away when the program is asked to end.
static PENDING: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// Removes what is being written. A program calls it when it is asked to end, and ends.
pub fn discard() {
    if let Ok(mut pending) = PENDING.lock() {
        for path in pending.drain(..) {
            // It may be complete and have another name by now.
            let _ = std::fs::remove_file(path);
        }
    }
}

/// A file in [`PENDING`], until this is dropped.
struct Pending(PathBuf);

impl Pending {
    fn new(path: &Path) -> Self {
        if let Ok(mut pending) = PENDING.lock() {
            pending.push(path.to_owned());
        }
        Self(path.to_owned())
    }
}

impl Drop for Pending {
    fn drop(&mut self) {
        if let Ok(mut pending) = PENDING.lock() {
            pending.retain(|path| *path != self.0);
        }
    }
}

/// Writes a file by `fill`; one that is there already is replaced only where `replace` says so. The file has the permissions
/// that new files have.
///
/// # Errors
/// A folder or disk that cannot be written, and `AlreadyExists` where a file is there that is not to be replaced. Nothing is
/// left behind then.
pub fn write(path: &Path, replace: bool, fill: impl FnOnce(&mut File) -> io::Result<()>) -> io::Result<()> {
    staged(path, replace, as_new(), fill)
}

/// Writes a file that is there anew. It keeps its permissions, and where a link leads to it the link stays.
///
/// # Errors
/// A file that is not there, and a folder or disk that cannot be written. The file is then as it was.
pub fn rewrite(path: &Path, fill: impl FnOnce(&mut File) -> io::Result<()>) -> io::Result<()> {
    let path = path.canonicalize()?;
    let permissions = std::fs::metadata(&path)?.permissions();
    staged(&path, true, permissions.clone(), |file| {
        // The system's mask has nothing to take away from what was set already.
        file.set_permissions(permissions)?;
        fill(file)
    })
}

fn staged(
    path: &Path,
    replace: bool,
    permissions: Permissions,
    fill: impl FnOnce(&mut File) -> io::Result<()>,
) -> io::Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut staged = Builder::new().prefix(PREFIX).permissions(permissions).tempfile_in(folder)?;
    let _pending = Pending::new(staged.path());
    fill(staged.as_file_mut())?;
    staged.as_file().sync_all()?;
    let done = if replace { staged.persist(path) } else { staged.persist_noclobber(path) };
    done.map_err(|error| error.error)?;
    // The name itself should survive a power cut, too. The file is there already, so that a folder that cannot be synchronised
    // must not make it look as if it were not.
    let _ = File::open(folder).and_then(|folder| folder.sync_all());
    Ok(())
}

/// What the system's mask takes permissions from.
fn as_new() -> Permissions {
    use std::os::unix::fs::PermissionsExt;
    Permissions::from_mode(0o666)
}
