//! Plans that are being edited: what is typed stands in place of what is on disk.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::fs;
use std::path::Path;

use oplex::check;
use oplex_io::files::{self, Reach};

#[test]
fn what_is_typed_stands_for_what_is_on_disk() {
    let place = tempfile::tempdir().unwrap();
    let (plan, book) = (place.path().join("plan.toml"), place.path().join("book.toml"));
    let on_disk = "book = \"kite\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"tune\"\nlayout = \"u8\"\nreference = \"x\"\n";
    fs::write(&book, on_disk).unwrap();
    let text = "codebooks = [\"book.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"x.example\"\n\"kite:tone\" = 7\n\
         [network.a]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.9\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
    let rules = |edited: &dyn Fn(&Path) -> Option<String>| {
        let loaded = files::edited(&plan, text, Reach::Folder, edited);
        check::plan(&loaded).into_iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    assert_eq!(rules(&|_| None), ["unknown-option"], "the option has another name on disk; the plan is on no disk");
    let typed = |path: &Path| (path == book).then(|| on_disk.replace("tune", "tone"));
    assert_eq!(rules(&typed), Vec::<&str>::new());
    // What may not be read from the disk may not be named by what is typed, either.
    let outside = text.replace("book.toml", "../book.toml");
    let loaded = files::edited(&plan, &outside, Reach::Folder, &|_| Some(on_disk.to_owned()));
    assert!(check::plan(&loaded).iter().any(|finding| finding.rule.name == "codebook-unreadable"));
}
