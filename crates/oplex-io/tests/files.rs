//! Files, as a program that embeds Oplex reads them.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::fs;
use std::path::{Path, PathBuf};

use oplex::check;
use oplex::release::compile;
use oplex_io::files::{self, Reach};

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

#[test]
fn codebooks_are_found_beside_their_plan() {
    let place = place();
    write(place.path(), "books/tern.toml", BOOK.as_bytes());
    let plan = write(place.path(), "plan.toml", PLAN.as_bytes());
    let loaded = files::plan(&plan, Reach::Folder).unwrap();
    assert_eq!(check::plan(&loaded), []);
    let document = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let network = &document.content.networks[0];
    assert_eq!((document.title.as_deref(), network.name.as_str()), (Some("Tarn Fell"), "domes"));
    assert_eq!(network.pools, ["10.64.8.20-10.64.8.90"]);
    assert_eq!(network.excluded, ["10.64.8.40"]);
    let ring = network.says.options.v4.iter().find(|option| option.option == "tern:1").unwrap();
    let carriers: Vec<_> = ring.carriers.iter().flatten().map(|carrier| carrier.option).collect();
    assert_eq!((ring.hex.as_str(), ring.code, carriers), ("01", 1, vec![Some(43)]));
    assert_eq!((document.codebooks[0].name.as_str(), document.codebooks[0].text.as_str()), ("books/tern.toml", BOOK));
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
