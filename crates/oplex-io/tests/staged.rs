//! Files that are written as a whole or not at all.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::fs;
use std::io::{Error, ErrorKind, Write};
use std::os::unix::fs::PermissionsExt;

use oplex_io::staged;

#[test]
fn a_file_is_there_as_a_whole_or_not_at_all() {
    let folder = tempfile::tempdir().unwrap();
    let (path, plain) = (folder.path().join("plan.toml"), folder.path().join("plain"));
    let there = || fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().file_name()).collect::<Vec<_>>();

    // A disk that is full in the middle.
    let full = |file: &mut fs::File| file.write_all(b"half").and_then(|()| Err(Error::from(ErrorKind::StorageFull)));
    assert_eq!(staged::write(&path, false, full).unwrap_err().kind(), ErrorKind::StorageFull);
    assert!(there().is_empty());

    // Told to end in the middle.
    let ended = |file: &mut fs::File| {
        file.write_all(b"half")?;
        assert_eq!(there().len(), 1);
        staged::discard();
        Ok(())
    };
    assert!(staged::write(&path, false, ended).is_err());
    assert!(there().is_empty());

    // It has what was written, and the permissions that any file has.
    staged::write(&path, false, |file| file.write_all(b"whole")).unwrap();
    fs::write(&plain, b"").unwrap();
    let mode = |path| fs::metadata(path).unwrap().permissions().mode();
    assert_eq!((fs::read(&path).unwrap(), mode(&path)), (b"whole".to_vec(), mode(&plain)));

    // Replaced only where that is meant, and a link is not followed.
    let other = |file: &mut fs::File| file.write_all(b"other");
    assert_eq!(staged::write(&path, false, other).unwrap_err().kind(), ErrorKind::AlreadyExists);
    assert_eq!(fs::read(&path).unwrap(), b"whole");
    let link = folder.path().join("link");
    std::os::unix::fs::symlink(&path, &link).unwrap();
    staged::write(&link, true, other).unwrap();
    assert_eq!((fs::read(&path).unwrap(), fs::read(&link).unwrap()), (b"whole".to_vec(), b"other".to_vec()));
    staged::write(&path, true, other).unwrap();
    assert_eq!((fs::read(&path).unwrap(), there().len()), (b"other".to_vec(), 3));
    // In one test, as what is told to end ends all that is being written.
    what_is_written_anew_keeps_its_permissions_and_links();
}

/// What is written anew is who may read it, and where links lead, as it was; a file that is not there is none to write anew.
fn what_is_written_anew_keeps_its_permissions_and_links() {
    use std::os::unix::fs::symlink;
    let place = tempfile::tempdir().unwrap();
    let (file, link) = (place.path().join("file"), place.path().join("link"));
    fs::write(&file, "before").unwrap();
    fs::set_permissions(&file, fs::Permissions::from_mode(0o604)).unwrap();
    symlink(&file, &link).unwrap();
    staged::rewrite(&link, |to| to.write_all(b"after")).unwrap();
    assert_eq!(fs::read_to_string(&file).unwrap(), "after");
    assert_eq!(fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o604);
    assert!(fs::symlink_metadata(&link).unwrap().is_symlink());
    let failed = staged::rewrite(&file, |_| Err(Error::other("no more")));
    assert!(failed.is_err() && fs::read_to_string(&file).unwrap() == "after", "it is as it was");
    assert!(staged::rewrite(&place.path().join("none"), |_| Ok(())).is_err());
    assert_eq!(fs::read_dir(place.path()).unwrap().count(), 2, "nothing is left behind");
}
