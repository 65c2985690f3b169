//! Release stores, as a program that embeds Oplex uses them.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::time::{Duration, SystemTime};

use oplex::compiled::Compiled;
use oplex::packet::{Composer, Message as _, v4};
use oplex::plan::{Loaded, Plan};
use oplex::release::{Document, compare, compile};
use oplex::server::{InMemory, Ingress, Server};
use oplex_io::store::{Entry, Prepared, Release, SourceKind, Store, StoreChange, TrustedKey, Watch};
use proptest::prelude::*;
use sha2::Digest as _;

const BOOK: &str = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\nreference = \"none\"\n";

/// A plan with so many networks, and a table of so many reservations; the router of each network is what `router` says.
fn plan(networks: usize, router: &dyn Fn(usize) -> u8, rows: &[usize]) -> Loaded {
    let mut text = "title = \"Tarn Fell\"\ncodebooks = [\"tern.toml\"]\nreservations = \"r.csv\"\n\
                    [send.v4]\ndomain-name = \"tarnfell.example\"\n"
        .to_owned();
    for at in 0..networks {
        let (high, low) = (at / 256, at % 256);
        let router = router(at);
        writeln!(
            text,
            "[network.n{at}]\nsubnet = \"10.{high}.{low}.0/24\"\npool = \"10.{high}.{low}.20-10.{high}.{low}.90\"\n\
             send.v4 = {{ router = \"10.{high}.{low}.{router}\", \"tern:ring\" = 1 }}"
        )
        .unwrap();
    }
    let mut table = "network,mac,address\n".to_owned();
    for row in rows {
        let (high, low) = (row / 256, row % 256);
        writeln!(table, "n0,02:00:5e:00:{high:02x}:{low:02x},").unwrap();
    }
    Plan::read("site/plan.toml", &text, &mut |name| Ok(if name == "r.csv" { table.clone() } else { BOOK.to_owned() }))
}

fn document(loaded: &Loaded) -> Document {
    assert_eq!(loaded.findings, []);
    compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap()
}

fn prepared(loaded: &Loaded) -> Prepared {
    Prepared::new(&document(loaded), &loaded.sources).unwrap()
}

fn publish(store: &Store, loaded: &Loaded, after: Option<&Release>) -> Release {
    let entry = Entry { author: "dana".to_owned(), ..Entry::default() };
    store.publish(&prepared(loaded), after, entry).unwrap()
}

fn parts(place: &Path) -> BTreeSet<String> {
    let all = fs::read_dir(place.join("parts")).unwrap();
    all.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect()
}

#[test]
fn releases_are_numbered_from_one_and_read_back_as_they_were() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path().join("deep/releases"));
    assert_eq!((store.numbers().unwrap(), store.latest().unwrap()), (Vec::new(), None));
    let mut last: Option<Release> = None;
    for number in 1..=3u8 {
        let loaded = plan(5, &|_| number, &[1, 2, 3]);
        let release = publish(&store, &loaded, last.as_ref());
        assert_eq!((release.number(), &release.manifest.format), (number.into(), &"oplex-release/3".to_owned()));
        assert_eq!(store.document(&release).unwrap(), document(&loaded));
        assert_eq!(store.latest().unwrap().as_ref(), Some(&release));
        assert_eq!(release.manifest.previous, last.map(|last| last.digest));
        last = Some(release);
    }
    let sources = store.sources(&store.release(2).unwrap()).unwrap();
    let kinds: Vec<_> = sources.iter().map(|file| (file.name.as_str(), file.kind)).collect();
    assert_eq!(
        kinds,
        [("plan.toml", SourceKind::Plan), ("tern.toml", SourceKind::Codebook), ("r.csv", SourceKind::Reservations)]
    );
    assert_eq!(sources[1].text, BOOK);
    assert_eq!(store.verify(&[]).unwrap().flaws, []);
}

/// Whoever waits for a large release is told how far it is: with steps that go up to all there is.
#[test]
fn long_work_on_a_release_says_how_far_it_is() {
    use oplex::compiled::Compiled;
    use oplex::release::compare_with_progress;
    let told = std::cell::RefCell::new(Vec::new());
    let progress = |done, of| told.borrow_mut().push((done, of));
    let reaches = |least: usize, most: usize| {
        let told = told.take();
        let (last, of) = *told.last().unwrap();
        assert!(told.is_sorted() && told.iter().all(|told| told.1 == of), "{told:?}");
        assert!((least..=most).contains(&last) && last <= of, "{last} of {of}");
    };
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let rows: Vec<usize> = (0..2500).collect();
    let loaded = plan(3, &|_| 1, &rows);
    let first = Prepared::with_progress(&document(&loaded), &loaded.sources, &progress).unwrap();
    reaches(2000, 2503);
    let first = store.publish_with_progress(&first, None, Entry::default(), &progress).unwrap();
    reaches(10, 200);
    store.document_with_progress(&first, &progress).unwrap();
    reaches(2503, 2503);
    // What everyone is sent is another, so that the release is read whole.
    let other = plan(3, &|_| 1, &rows[1..]);
    let mut after = document(&other);
    after.content.everyone = oplex::release::LayerEntry { layer: "everyone".to_owned(), ..Default::default() };
    let prepared = Prepared::new(&after, &other.sources).unwrap();
    store.differing_with_progress(&first, &after, &prepared, &progress).unwrap();
    reaches(2503, 2503);
    let second = publish(&store, &other, Some(&first));
    store.revert_with_progress(&first, &second, Entry::default(), &progress).unwrap();
    reaches(2503, 2503);
    let [was, is] = [&loaded, &other].map(|loaded| Compiled::of(loaded.plan.as_ref().unwrap()));
    assert_eq!(compare_with_progress(&was, &is, &progress).len(), 1);
    reaches(5000, 5006);
}

/// Who answers on a few networks reads these alone, and answers as the whole release does.
#[test]
fn an_excerpt_has_what_its_networks_have_and_no_more() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let mut loaded = plan(300, &|at| at as u8, &(0..400).collect::<Vec<_>>());
    let text = format!(
        "{}[fleet.bells]\nmatch = {{ mac = \"02:00:5e:*\" }}\non.n7 = {{ send.v4 = {{ \"tern:ring\" = 9 }} }}\n\
         on.n8 = {{ send.v4 = {{ \"tern:ring\" = 8 }} }}\n\
         [network.n7x]\nsubnet = \"10.200.0.0/24\"\npool = \"10.200.0.20-10.200.0.90\"\nsend.v4 = {{ router = \"10.200.0.1\" }}\n",
        loaded.sources.all().next().unwrap().text
    );
    let table = "network,mac,address\nn7,02:00:5e:00:00:01,10.0.7.9\nn7x,02:00:5e:00:00:02,10.200.0.9\n";
    loaded = Plan::read("plan.toml", &text, &mut |name| {
        Ok(if name == "r.csv" { table.to_owned() } else { BOOK.to_owned() })
    });
    let release = publish(&store, &loaded, None);
    let whole = store.document(&release).unwrap();
    let excerpt = store.excerpt(&release, &["n7", "n240", "n7"]).unwrap();
    let names: Vec<_> = excerpt.content.networks.iter().map(|network| &*network.name).collect();
    assert_eq!(names, ["n240", "n7"]);
    assert_eq!(excerpt.content.reservations.len(), 1);
    assert_eq!(excerpt.content.fleets[0].on.len(), 1);
    let (of_whole, of_excerpt) = (whole.compiled().unwrap(), excerpt.compiled().unwrap());
    for (name, mac) in [("n7", 1), ("n7", 3), ("n240", 1)] {
        let answer = |compiled: &Compiled<'_>| {
            let at = compiled.networks.iter().position(|network| network.name == name).unwrap();
            let facts = oplex::plan::ClientFacts {
                mac: Some([2, 0, 0x5e, 0, 0, mac].into()),
                ..oplex::plan::ClientFacts::on(at)
            };
            let answer = compiled.answer(oplex::family::Family::V4, &facts).unwrap();
            let options: Vec<_> = answer.payloads.iter().map(|sent| (sent.code, sent.octets.to_vec())).collect();
            (answer.address.map(|assigned| assigned.address), options)
        };
        assert_eq!(answer(&of_whole), answer(&of_excerpt), "{name} {mac}");
    }
    // A client's message says which network it is, or the link that it came in on does.
    let mut composer = Composer::default();
    for (relay, link, network) in [
        ([10, 0, 240, 3], None, Some("n240")),
        ([10, 200, 0, 7], Some("n7"), Some("n7x")),
        ([0; 4], Some("n7"), Some("n7")),
        ([10, 99, 0, 7], None, None),
    ] {
        let header = v4::Header { giaddr: relay.into(), ..v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 7]) };
        let discover = v4::Draft { header, ..v4::Draft::new(v4::MessageType::DISCOVER) };
        let discover = composer.compose(&discover).unwrap().octets;
        let message = v4::Message::read(discover).unwrap();
        let own = store.excerpt_for(&release, message.into(), link).unwrap();
        let names = own.iter().flat_map(|own| own.content.networks.iter().map(|network| network.name.clone()));
        assert_eq!(names.collect::<Vec<_>>(), network.into_iter().collect::<Vec<_>>(), "{relay:?}");
        let ingress = Ingress { network: link, ..Ingress::default() };
        let answered = |compiled: &Compiled<'_>| {
            let mut leases = InMemory::default();
            Server::new(compiled).answer(discover, &ingress, &mut leases).map(|reply| reply.octets.to_vec())
        };
        let own = own.and_then(|own| answered(&own.compiled().unwrap()));
        assert_eq!((own.is_some(), own), (network.is_some(), answered(&of_whole)), "{relay:?}");
    }
    let error = store.excerpt(&release, &["n7", "n77x"]).unwrap_err();
    assert_eq!(error.why, "release 1 has no network `n77x`");
    // Of 300 networks in some twenty parts, most parts may be missing.
    for part in parts(place.path()) {
        let octets = fs::read(place.path().join("parts").join(&part)).unwrap();
        let text = String::from_utf8_lossy(&octets);
        if text.starts_with("{\"entries\":[{\"name\"") && !text.contains("\"n7\"") && !text.contains("\"n240\"") {
            fs::remove_file(place.path().join("parts").join(part)).unwrap();
        }
    }
    assert!(store.document(&release).is_err());
    assert_eq!(store.excerpt(&release, &["n7", "n240"]).unwrap(), excerpt);
}

/// Publishers that saw something else publish nothing, and what they wrote does no harm.
#[test]
fn who_has_not_seen_the_latest_publishes_nothing() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let first = publish(&store, &plan(2, &|_| 1, &[]), None);
    let late = |after: Option<&Release>| {
        let error = store.publish(&prepared(&plan(2, &|_| 3, &[])), after, Entry::default()).unwrap_err();
        assert!(
            error.why.contains("meanwhile") && error.path == store.path(after.map_or(0, Release::number) + 1),
            "{error}"
        );
    };
    late(None);
    publish(&store, &plan(2, &|_| 2, &[]), Some(&first));
    late(Some(&first));
    assert_eq!(store.numbers().unwrap(), [1, 2]);
    let report = store.verify(&[]).unwrap();
    assert!(report.flaws.is_empty() && !report.orphans.is_empty());
}

/// Parts of parts without end, as nobody but a hostile writer makes them: refused wherever they are read.
#[test]
fn parts_that_lie_too_deep_in_each_other_are_refused() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let loaded = plan(2, &|_| 1, &[]);
    publish(&store, &loaded, None);
    let digest = |octets: &[u8]| data_encoding::HEXLOWER.encode(&sha2::Sha256::digest(octets));
    let keep = |text: String| {
        let name = digest(text.as_bytes());
        fs::write(place.path().join("parts").join(&name), text).unwrap();
        name
    };
    let read = |path: &Path| serde_json::from_str::<serde_json::Value>(&fs::read_to_string(path).unwrap()).unwrap();
    let mut manifest = read(&store.path(1))["manifest"].clone();
    let mut root = read(&place.path().join("parts").join(manifest["content"].as_str().unwrap()));
    for _ in 0..2000 {
        root["networks"]["part"] = keep(format!("{{\"below\":[{}]}}", root["networks"])).into();
    }
    manifest["content"] = keep(root.to_string()).into();
    let text = manifest.to_string();
    fs::write(store.path(1), format!("{{\"manifest\":{text},\"sha256\":\"{}\"}}", digest(text.as_bytes()))).unwrap();
    let release = store.release(1).unwrap();
    let deep = |why: &str| assert!(why.contains("deeper in each other than any release has them"), "{why}");
    deep(&store.document(&release).unwrap_err().why);
    deep(&store.differing(&release, &document(&loaded), &prepared(&loaded)).unwrap_err().why);
    deep(&store.verify(&[]).unwrap().flaws[0].why);
}

/// A store that vanishes is not begun anew, and goes on where it is found again.
#[test]
fn a_store_that_vanishes_is_not_begun_anew() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path().join("store"));
    let first = publish(&store, &plan(2, &|_| 1, &[]), None);
    fs::rename(place.path().join("store"), place.path().join("elsewhere")).unwrap();
    let error = store.publish(&prepared(&plan(2, &|_| 2, &[])), Some(&first), Entry::default()).unwrap_err();
    assert!(error.why.contains("there is no such release") && error.path == store.path(1), "{error}");
    assert_eq!(store.numbers().unwrap(), [0; 0]);
    let moved = Store::new(place.path().join("elsewhere"));
    let second = publish(&moved, &plan(2, &|_| 2, &[]), Some(&first));
    assert_eq!((second.number(), moved.latest().unwrap()), (2, Some(second)));
}

/// Numbers order releases, not clocks: after one that says to be of the next century comes one of today.
#[test]
fn a_clock_that_goes_back_changes_no_order() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    publish(&store, &plan(2, &|_| 1, &[]), None);
    let text = fs::read_to_string(store.path(1)).unwrap();
    let mut whole: serde_json::Value = serde_json::from_str(&text).unwrap();
    whole["manifest"]["published"] = "2126-11-27T06:00:00Z".into();
    let manifest = whole["manifest"].to_string();
    let digest = data_encoding::HEXLOWER.encode(&sha2::Sha256::digest(manifest.as_bytes()));
    fs::write(store.path(1), format!("{{\"manifest\":{manifest},\"sha256\":\"{digest}\"}}")).unwrap();
    let first = store.latest().unwrap().unwrap();
    assert_eq!((first.number(), first.manifest.published.as_str()), (1, "2126-11-27T06:00:00Z"));
    let second = publish(&store, &plan(2, &|_| 2, &[]), Some(&first));
    assert!(second.manifest.published < first.manifest.published);
    assert_eq!(store.latest().unwrap(), Some(second));
    assert_eq!(store.verify(&[]).unwrap().flaws, []);
}

/// In a large plan one network, reservation or line more changes few parts, whatever there is of the others.
#[test]
fn only_what_changed_is_written() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let rows: Vec<usize> = (0..4000).collect();
    let large = plan(3000, &|_| 1, &rows);
    let first = publish(&store, &large, None);
    let before = parts(place.path());
    assert!(before.len() > 100, "{}", before.len());
    let largest = before.iter().map(|part| fs::metadata(place.path().join("parts").join(part)).unwrap().len());
    assert!(largest.max() < Some(80 << 10));
    let more: Vec<usize> = (0..4000).chain([5000]).collect();
    let mut last = first;
    for changed in
        [plan(3000, &|at| if at == 1234 { 2 } else { 1 }, &rows), plan(3000, &|_| 1, &more), plan(3001, &|_| 1, &more)]
    {
        let known = parts(place.path());
        let (was, is) = store.differing(&last, &document(&changed), &prepared(&changed)).unwrap();
        assert!(was.content.networks.len() < 4 && is.content.networks.len() < 4);
        last = publish(&store, &changed, Some(&last));
        let new = parts(place.path()).difference(&known).count();
        // The content: the root, the nodes, a leaf or two; and the same for the plan or its table.
        assert!(new <= 14, "{new}");
        assert_eq!(store.document(&last).unwrap(), document(&changed));
    }
    assert_eq!(store.verify(&[]).unwrap().flaws, []);
}

/// Whoever follows a store sees the latest release and each new one; one that is broken is reported once, and the last good one kept.
#[test]
fn a_store_is_followed() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let mut watch = Watch::new(store.clone());
    assert!(watch.look().is_none());
    let number = |seen: Option<StoreChange>| match seen {
        Some(StoreChange::Release(release, _)) => release.number(),
        other => panic!("{other:?}"),
    };
    let first = publish(&store, &plan(2, &|_| 1, &[]), None);
    let second = publish(&store, &plan(2, &|_| 2, &[]), Some(&first));
    assert_eq!(number(watch.look()), 2);
    let third = publish(&store, &plan(2, &|_| 3, &[]), Some(&second));
    let fourth = publish(&store, &plan(2, &|_| 4, &[]), Some(&third));
    assert_eq!((number(watch.look()), number(watch.look())), (3, 4));
    assert!(watch.look().is_none());
    publish(&store, &plan(2, &|_| 5, &[]), Some(&fourth));
    let good = fs::read(store.path(5)).unwrap();
    fs::write(store.path(5), "{").unwrap();
    assert!(matches!(watch.look(), Some(StoreChange::Broken(why)) if why.why.contains("not a release")));
    assert!(watch.look().is_none(), "it is said once");
    fs::write(store.path(5), good).unwrap();
    assert_eq!(number(watch.look()), 5);
    let mut strict = Watch::new(store).trusting(vec![TrustedKey { key: "00".to_owned() }]);
    assert!(matches!(strict.look(), Some(StoreChange::Broken(why)) if why.why.contains("not signed with a key")));
}

#[test]
fn a_store_whose_directory_cannot_be_made_says_so() {
    let place = tempfile::tempdir().unwrap();
    let file = place.path().join("file");
    fs::write(&file, "").unwrap();
    let error = Store::new(&file).publish(&prepared(&plan(1, &|_| 1, &[])), None, Entry::default()).unwrap_err();
    assert!(error.why.starts_with("cannot be used"), "{error}");
}

/// What somebody may do to a plan that changes no octet, and what does.
fn written(order: bool, comment: bool, router: u8, fleets: bool) -> Loaded {
    let keys = ["domain-name = \"tarnfell.example\"\n", "domain-server = \"10.64.0.53\"\n"];
    let keys = if order { keys.concat() } else { [keys[1], keys[0]].concat() };
    let fleet = |name: &str, lease: &str| format!("[fleet.{name}]\nmatch.vendor-class = \"*\"\nlease = \"{lease}\"\n");
    let two = [fleet("one", "1h"), fleet("two", "2h")];
    let two = if fleets { two.concat() } else { [two[1].as_str(), &two[0]].concat() };
    let note = if comment { "# What everyone gets.\n" } else { "" };
    let text = format!(
        "title = \"Tarn Fell\"\n{note}[send.v4]\n{keys}[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
         pool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = {{ router = \"10.64.4.{router}\" }}\n{two}"
    );
    Plan::read(if comment { "a.toml" } else { "b.toml" }, &text, &mut |_| Err(String::new().into()))
}

proptest! {
    /// The digest of a content is the same exactly where no client gets anything else.
    #[test]
    fn a_content_is_named_by_what_clients_get(
        (one, other) in (any::<[bool; 3]>(), any::<[bool; 3]>()), routers in (1u8..3, 1u8..3),
    ) {
        let of = |[order, comment, fleets]: [bool; 3], router| written(order, comment, router, fleets);
        let (one, other) = (of(one, routers.0), of(other, routers.1));
        let (was, is) = (document(&one), document(&other));
        let same = compare(&was.compiled().unwrap(), &is.compiled().unwrap()).is_empty();
        prop_assert_eq!(prepared(&one).content() == prepared(&other).content(), same);
    }
}

/// What a publisher that was stopped had not written to its end is removed by the next one a day later, and nothing else is.
#[test]
fn what_was_left_half_written_goes() {
    let place = tempfile::tempdir().unwrap();
    let store = Store::open(place.path()).unwrap();
    let first = publish(&store, &plan(2, &|_| 1, &[]), None);
    let long_ago = SystemTime::now() - Duration::from_secs(90_000);
    let cases = [
        ("parts/.oplex-abc123", true, false),
        ("releases/0000/.oplex-def456", true, false),
        // Somebody may be writing it, or it is not a publisher's.
        ("parts/.oplex-ghi789", false, true),
        ("parts/notes", true, true),
        (".oplex-jkl012", true, true),
    ];
    for (name, old, _) in cases {
        let file = fs::File::create(place.path().join(name)).unwrap();
        if old {
            file.set_modified(long_ago).unwrap();
        }
    }
    publish(&store, &plan(2, &|_| 2, &[]), Some(&first));
    for (name, _, stays) in cases {
        assert_eq!(place.path().join(name).exists(), stays, "{name}");
    }
    assert_eq!(store.numbers().unwrap(), [1, 2]);
}
