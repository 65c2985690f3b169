//! Changes of parts of a value, layout by layout: what comes of them, and what is said of those that do not fit.

use oplex::layout::{Edit, EditsText, Input, Layout, NoCodebook, Value};
use oplex::octets::hex;
use proptest::prelude::*;

const SETTINGS: &str = "pairs(\",\" \"=\") { SERVER!: ipv4, VLAN: u16, PORT: u16 }";
const OPEN: &str = "pairs(\";\" \"=\") { MODE: text, .. }";
const SERVERS: &str =
    "{ encoding: u8 of { names = 0, addresses = 1 }, servers: by encoding { 0 => name+, 1 => ipv4+ } }";
const FLAGGED: &str = "{ flags: u8 flags { e = 4 }, rank: u8, name: by flags.e { 1 => name, 0 => text } }";
const URL: &str = "{ port: u16, path: text? }";

fn layout(text: &str) -> Layout {
    Layout::parse(text).unwrap_or_else(|why| panic!("{text}: {why}"))
}

fn value(layout: &Layout, text: &str) -> Value {
    layout.read(&NoCodebook, &Input::from_text(text)).unwrap_or_else(|why| panic!("{text}: {why:?}")).value
}

fn edits(layout: &Layout, text: &str) -> Result<Vec<Edit>, String> {
    let read = layout.read_edits(&NoCodebook, &Input::from_text(text));
    read.map_err(|all| all.iter().map(|one| one.message.clone()).collect::<Vec<_>>().join("; "))
}

#[test]
fn parts_of_values_are_changed_as_they_are_written() {
    for (of, before, changes, after) in [
        (
            SETTINGS,
            "{ SERVER = 10.64.0.70, VLAN = 64 }",
            "{ SERVER = 10.64.0.71 }",
            "{ SERVER = 10.64.0.71, VLAN = 64 }",
        ),
        // A key that is new comes last, as the order of such keys says nothing.
        (
            SETTINGS,
            "{ SERVER = 10.64.0.70, PORT = 5061 }",
            "{ VLAN = 4 }",
            "{ SERVER = 10.64.0.70, PORT = 5061, VLAN = 4 }",
        ),
        (SETTINGS, "{ SERVER = 10.64.0.70, VLAN = 64 }", "{ VLAN = { remove = true } }", "{ SERVER = 10.64.0.70 }"),
        // What is not there is taken away already.
        (SETTINGS, "{ SERVER = 10.64.0.70 }", "{ VLAN = { remove = true } }", "{ SERVER = 10.64.0.70 }"),
        (
            SETTINGS,
            "{ SERVER = 10.64.0.70, VLAN = 64 }",
            "{ PORT = 5061, VLAN = { remove = true }, SERVER = 10.64.0.9 }",
            "{ SERVER = 10.64.0.9, PORT = 5061 }",
        ),
        (URL, "{ port = 69, path = a }", "{ path = b }", "{ port = 69, path = b }"),
        (URL, "{ port = 69, path = a }", "{ path = { remove = true } }", "{ port = 69 }"),
        (URL, "{ port = 69 }", "{ path = c, port = 80 }", "{ port = 80, path = c }"),
        ("ipv4+", "10.64.0.1, 10.64.0.2", "{ first = 10.64.0.9 }", "10.64.0.9, 10.64.0.1, 10.64.0.2"),
        ("ipv4+", "10.64.0.1", "{ last = [10.64.0.8, 10.64.0.9] }", "10.64.0.1, 10.64.0.8, 10.64.0.9"),
        ("ipv4+", "10.64.0.1", "{ first = 10.64.0.8, last = 10.64.0.9 }", "10.64.0.8, 10.64.0.1, 10.64.0.9"),
        ("name+", "tarnfell.example", "{ last = yard.tarnfell.example }", "tarnfell.example, yard.tarnfell.example"),
        (URL_LIST, "{ port = 69, host = 10.64.0.1 }", "{ last = { port = 70, host = 10.64.0.2 } }", URL_LIST_AFTER),
        // A field whose form depends on another is changed together with that one.
        (
            SERVERS,
            "{ encoding = addresses, servers = 10.64.0.1 }",
            "{ encoding = addresses, servers = 10.64.0.2 }",
            "{ encoding = addresses, servers = 10.64.0.2 }",
        ),
        (
            SERVERS,
            "{ encoding = addresses, servers = 10.64.0.1 }",
            "{ servers = sip.tarnfell.example, encoding = names }",
            "{ encoding = names, servers = sip.tarnfell.example }",
        ),
        (
            FLAGGED,
            "{ flags = e, rank = 1, name = a.example }",
            "{ rank = 2 }",
            "{ flags = e, rank = 2, name = a.example }",
        ),
        (
            FLAGGED,
            "{ flags = e, rank = 1, name = a.example }",
            "{ flags = [], name = desk }",
            "{ flags = [], rank = 1, name = desk }",
        ),
    ] {
        let layout = layout(of);
        let (before, after) = (value(&layout, before), value(&layout, after));
        let edits = edits(&layout, changes).unwrap_or_else(|why| panic!("{changes}: {why}"));
        let amended = layout.amended(&before, &edits);
        let octets = |value: &Value| layout.encode(&NoCodebook, value).map(|encoded| hex::plain(&encoded.octets));
        assert_eq!((octets(&amended), &amended.to_string()), (octets(&after), &after.to_string()), "{changes}");
    }
}

const URL_LIST: &str = "{ port: u16, host: ipv4 }+";
const URL_LIST_AFTER: &str = "{ port = 69, host = 10.64.0.1 }, { port = 70, host = 10.64.0.2 }";

#[test]
fn changes_that_do_not_fit_are_said_to_be() {
    for (of, changes, says) in [
        (SETTINGS, "{ SERVER = { remove = true } }", "`SERVER` must be there, so it cannot be removed"),
        (SETTINGS, "{ PROT = 1 }", "unknown key `PROT`; expected one of SERVER, VLAN, PORT"),
        (SETTINGS, "{ VLAN = 70000 }", "70000 is outside 0 to 65535"),
        (SETTINGS, "{ VLAN = { remove = false } }", "a table is not allowed here; write a whole number"),
        (SETTINGS, "64", "a change is a table: `{ KEY = value }`, or `{ last = […] }` for a list"),
        (URL, "{ port = { remove = true } }", "`port` must be there, so it cannot be removed"),
        (URL, "{ prot = 1 }", "unknown field `prot`; expected one of port, path"),
        ("ipv4+", "{ middle = 10.64.0.1 }", "unknown change of a list `middle`; expected one of first, last"),
        ("ipv4+", "{ last = 10.64 }", "`10.64` is not an IPv4 address: it has 2 of 4 numbers"),
        ("u8", "{ value = 1 }", "this option has no parts that can be changed; send it whole"),
        (
            SERVERS,
            "{ servers = 10.64.0.2 }",
            "the form of `servers` depends on `encoding`; change `encoding` together with it",
        ),
        (FLAGGED, "{ name = desk }", "the form of `name` depends on `flags`; change `flags` together with it"),
        (SERVERS, "{ encoding = addresses, servers = sip }", "`sip` is not an IPv4 address; write it like `10.64.4.1`"),
    ] {
        assert_eq!(edits(&layout(of), changes).err().as_deref(), Some(says), "{changes}");
    }
}

proptest! {
    /// Changes written out and read again are the same, and do the same: as a release keeps them.
    #[test]
    fn changes_are_read_back_as_they_are_written(
        server in any::<u32>(),
        vlan in proptest::option::of(any::<u16>()),
        mode in "[ -~]{0,12}",
        hosts in prop::collection::vec(any::<u32>(), 1..4),
    ) {
        let address = |bits: u32| std::net::Ipv4Addr::from(bits).to_string();
        let vlan_text = vlan.map_or("{ remove = true }".to_owned(), |vlan| vlan.to_string());
        let list = hosts.iter().map(|host| address(*host)).collect::<Vec<_>>().join(", ");
        let quoted = mode.replace('\\', "\\\\").replace('"', "\\\"");
        for (of, before, changes) in [
            (SETTINGS, "{ SERVER = 10.64.0.70, VLAN = 64 }", format!("{{ SERVER = {}, VLAN = {vlan_text} }}", address(server))),
            (OPEN, "{ MODE = a }", format!("{{ MODE = \"{quoted}\", OTHER = \"{quoted}\" }}")),
            ("ipv4+", "10.64.0.1", format!("{{ first = [{list}], last = [{list}] }}")),
            (SERVERS, "{ encoding = names, servers = sip }", format!("{{ encoding = addresses, servers = [{list}] }}")),
        ] {
            let (layout, all) = (layout(of), edits(&layout(of), &changes));
            // Text that a layout has no room for is refused; whatever is taken comes back.
            let Ok(all) = all else { continue };
            let again = edits(&layout, &EditsText(&all).to_string());
            prop_assert_eq!(again.as_ref(), Ok(&all), "{}", changes);
            let amended = layout.amended(&value(&layout, before), &all);
            prop_assert_eq!(&layout.amended(&amended, &[]), &amended);
            if let Ok(encoded) = layout.encode(&NoCodebook, &amended) {
                let read = layout.decode(&NoCodebook, &encoded.octets).0;
                prop_assert_eq!(read, Some(amended), "{}", changes);
            }
        }
    }
}
