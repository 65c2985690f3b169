//! Files and release stores, as a program that embeds Oplex uses them.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::fs;
use std::path::{Path, PathBuf};

use oplex::check;
use oplex::release::{Document, compile};
use oplex_io::files::{self, Reach};
use oplex_io::store::{Store, seal};

/// A directory that is there for one test.
fn place() -> tempfile::TempDir {
    tempfile::tempdir().unwrap()
}

fn write(place: &Path, name: &str, octets: &[u8]) -> PathBuf {
    let path = place.join(name);
    fs::create_dir_all(path.parent().unwrap()).unwrap();
    fs::write(&path, octets).unwrap();
    path
}

const PLAN: &str = "title = \"Tarn Fell\"\ncodebooks = [\"books/tern.toml\"]\n\
    [send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
    [network.domes]\nsubnet = \"10.64.8.0/21\"\npool = \"10.64.8.20-10.64.8.90\"\nexclude = \"10.64.8.40\"\n\
    [network.domes.send.v4]\nrouter = \"10.64.8.1\"\n\"tern:ring\" = 1\n";

const BOOK: &str = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\nreference = \"none\"\n";

fn compiled() -> Document {
    let place = place();
    write(place.path(), "books/tern.toml", BOOK.as_bytes());
    let plan = write(place.path(), "plan.toml", PLAN.as_bytes());
    let loaded = files::plan(&plan, Reach::Folder).unwrap();
    assert_eq!(check::plan(&loaded), []);
    compile(loaded.plan.as_ref().unwrap(), &loaded.sources)
}

#[test]
fn codebooks_are_found_beside_their_plan() {
    let compiled = compiled();
    let network = &compiled.networks[0];
    assert_eq!((compiled.title.as_deref(), network.name.as_str()), (Some("Tarn Fell"), "domes"));
    assert_eq!(network.pools, ["10.64.8.20-10.64.8.90"]);
    assert_eq!(network.excluded, ["10.64.8.40"]);
    let ring = network.says.options.v4.iter().find(|option| option.option == "tern:1").unwrap();
    assert_eq!((ring.hex.as_str(), ring.from.as_ref().map(|from| from.line)), ("01", Some(12)));
    assert_eq!(compiled.codebooks[0].name, "books/tern.toml");
    assert_eq!(compiled.codebooks[0].text, BOOK);
}

#[test]
fn files_that_cannot_be_read_are_named_with_the_reason() {
    let place = place();
    let wrong = |path: &Path| files::text(path).unwrap_err().why;
    assert_eq!(wrong(&place.path().join("none.toml")), "no such file");
    assert_eq!(wrong(place.path()), "this is a directory; name the file in it");
    let file = write(place.path(), "file", b"");
    assert_eq!(wrong(&file.join("below")), "part of the path is a file, not a directory");
    let latin = write(place.path(), "latin.toml", b"a = 1\nb = \"\xe9\"\n");
    assert_eq!(
        files::text(&latin).unwrap_err().to_string(),
        format!("{}: the file is not UTF-8: line 2 (octet 11) holds something else; save it as UTF-8", latin.display())
    );
}

#[test]
fn what_has_a_book_is_read_as_a_codebook() {
    let place = place();
    let book = write(place.path(), "tern.toml", BOOK.as_bytes());
    let loaded = files::plan_or_codebook(&book, Reach::Folder, &mut |_| {}).unwrap();
    assert!(loaded.is_codebook && loaded.plan.unwrap().codebook.find("tern:ring").is_ok());
    let plan = write(place.path(), "plan.toml", b"title = \"x\"\n");
    assert!(!files::plan_or_codebook(&plan, Reach::Folder, &mut |_| {}).unwrap().is_codebook);
}

#[test]
fn plans_name_files_below_their_folder_and_each_once() {
    let place = place();
    let secret = write(place.path(), "secret.csv", b"root:x:0:0\n");
    write(place.path(), "site/books/tern.toml", BOOK.as_bytes());
    std::os::unix::fs::symlink(&secret, place.path().join("site/link.csv")).unwrap();
    let said = |names: &str, reach: Reach| {
        let plan = format!("{names}\n[network.domes]\nsubnet = \"10.64.8.0/21\"\n");
        let plan = write(place.path(), "site/plan.toml", plan.as_bytes());
        let loaded = files::plan(&plan, reach).unwrap();
        loaded.findings.iter().map(|finding| finding.message.clone()).collect::<Vec<_>>()
    };
    let out = "is outside the folder of the file that names it; move it there, or allow such files with --trust-paths";
    let absolute = secret.display().to_string();
    for (path, key, kind) in [
        ("../secret.csv", "reservations", "reservations"),
        ("books/../../secret.csv", "codebooks", "codebook"),
        ("link.csv", "reservations", "reservations"),
        (&absolute, "reservations", "reservations"),
    ] {
        assert_eq!(
            said(&format!("{key} = [\"{path}\"]"), Reach::Folder),
            [format!("the {kind} {path} cannot be read: it {out}")]
        );
        let trusted = said(&format!("{key} = [\"{path}\"]"), Reach::Anywhere);
        assert!(
            !trusted.is_empty() && trusted.iter().all(|message| !message.contains("cannot be read")),
            "{trusted:?}"
        );
    }
    assert_eq!(said("codebooks = [\"../site/books/tern.toml\"]", Reach::Folder), [""; 0]);
    assert_eq!(
        said("codebooks = [\"books/tern.toml\", \"./books/tern.toml\"]", Reach::Folder),
        ["the codebook ./books/tern.toml cannot be read: it is read already, as books/tern.toml; name it once"]
    );
}

#[test]
fn releases_are_numbered_from_one_and_read_back_as_they_were() {
    let place = place();
    let store = Store::new(place.path().join("deep/releases"));
    assert_eq!(store.numbers().unwrap(), Vec::<u32>::new());
    let content = compiled();
    for number in 1..=3 {
        let release = store.publish(content.clone(), number - 1).unwrap();
        assert_eq!((release.release, release.format.as_str()), (number, "oplex-release/2"));
        assert_eq!(store.load(number).unwrap(), release);
    }
    assert_eq!(store.numbers().unwrap(), [1, 2, 3]);
}

#[test]
fn a_gap_in_the_numbers_is_not_filled_and_other_files_do_not_count() {
    let place = place();
    let store = Store::new(place.path());
    store.publish(compiled(), 0).unwrap();
    store.publish(compiled(), 1).unwrap();
    fs::remove_file(store.path(1)).unwrap();
    write(place.path(), "notes.txt", b"");
    write(place.path(), "release-x.json", b"");
    assert_eq!(store.numbers().unwrap(), [2]);
    assert_eq!(store.publish(compiled(), 2).unwrap().release, 3);
    // Who has not seen it publishes nothing.
    let late = store.publish(compiled(), 2).unwrap_err();
    assert!(late.why.contains("meanwhile") && late.path == store.path(3), "{late}");
    assert_eq!(store.numbers().unwrap(), [2, 3]);
}

#[test]
fn the_seal_is_of_the_content_alone() {
    let content = compiled();
    let place = place();
    let (first, second) = (Store::new(place.path().join("a")), Store::new(place.path().join("b")));
    first.publish(content.clone(), 0).unwrap();
    let releases = [first.publish(content.clone(), 1).unwrap(), second.publish(content.clone(), 0).unwrap()];
    assert_eq!(releases[0].seal, releases[1].seal);
    assert_eq!(releases[0].seal, seal(&content));
    assert!(releases[0].seal.starts_with("sha256:") && releases[0].seal.len() == 7 + 64);
    let mut other = content;
    other.networks[0].says.options.v4[0].hex.push('0');
    assert_ne!(seal(&other), releases[0].seal);
}

#[test]
fn a_release_that_was_changed_or_is_none_is_refused() {
    let place = place();
    let store = Store::new(place.path());
    store.publish(compiled(), 0).unwrap();
    let path = store.path(1);
    let text = fs::read_to_string(&path).unwrap();
    fs::write(&path, text.replace("\"hex\": \"01\"", "\"hex\": \"02\"")).unwrap();
    assert!(store.load(1).unwrap_err().why.contains("the seal does not match"));
    // Another layout of the same document is the same content.
    fs::write(&path, text.replace('\n', "\r\n")).unwrap();
    assert!(store.load(1).is_ok());
    fs::write(&path, "{}").unwrap();
    assert!(store.load(1).unwrap_err().why.starts_with("not a release"));
    assert_eq!(store.load(7).unwrap_err().why, "cannot be used: no such file");
}

#[test]
fn a_store_whose_directory_cannot_be_made_says_so() {
    let place = place();
    let file = write(place.path(), "file", b"");
    let error = Store::new(&file).publish(compiled(), 0).unwrap_err();
    assert!(error.why.starts_with("cannot be used"), "{error}");
    assert_eq!(error.path, file);
}
