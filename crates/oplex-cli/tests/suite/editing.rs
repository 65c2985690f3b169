//! `oplex editor`, driven as an editor drives it.

use std::fs;
use std::path::{Path, PathBuf};

use serde_json::{Value, json};
use snapbox::cmd::cargo_bin;

use crate::editor::{Editor, uri};
use crate::oplex;

/// The demo, and an editor that has its plan open.
struct Desk {
    _place: tempfile::TempDir,
    plan: PathBuf,
    text: String,
    editor: Editor,
}

impl Desk {
    fn new(change: impl FnOnce(String) -> String) -> Self {
        let place = tempfile::tempdir().unwrap();
        let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
        fs::create_dir(place.path().join("codebooks")).unwrap();
        for name in [
            "codebooks/tern-intercoms.toml",
            "codebooks/gannet-radios.toml",
            "codebooks/tarnfell-domes.toml",
            "reservations.csv",
        ] {
            fs::copy(demo.join(name), place.path().join(name)).unwrap();
        }
        let text = change(fs::read_to_string(demo.join("plan.toml")).unwrap());
        let plan = place.path().join("plan.toml");
        fs::write(&plan, &text).unwrap();
        let mut editor = Editor::start(cargo_bin!("oplex"));
        editor.open(&plan, &text);
        Self { _place: place, plan, text, editor }
    }

    /// Where a piece of text begins, and what stands so many characters behind that.
    fn place(&self, piece: &str, behind: usize) -> (usize, usize) {
        let at = self.text.find(piece).unwrap_or_else(|| panic!("no {piece} in the plan")) + behind;
        let line = self.text[..at].matches('\n').count();
        (line, self.text[..at].rsplit('\n').next().unwrap().encode_utf16().count())
    }

    fn hover(&mut self, piece: &str, behind: usize) -> String {
        let place = self.place(piece, behind);
        let said = self.editor.at("textDocument/hover", &self.plan.clone(), place);
        said["contents"]["value"].as_str().unwrap_or_default().to_owned()
    }

    /// What is offered at the end of a line that is put behind another, as label and text.
    fn offered(&mut self, behind: &str, line: &str) -> Vec<(String, String)> {
        let (at, _) = self.place(behind, 0);
        let plan = self.plan.clone();
        self.editor.change(&plan, (at + 1, 0), (at + 1, 0), &format!("{line}\n"));
        let unit = line.trim_end_matches(['"', ' ', '}', ']']).encode_utf16().count();
        let unit = if line.ends_with('"') || line.ends_with('}') || line.ends_with(']') {
            unit + usize::from(line.contains('"'))
        } else {
            unit
        };
        let said = self.editor.at("textDocument/completion", &plan, (at + 1, unit.min(line.len())));
        self.editor.change(&plan, (at + 1, 0), (at + 2, 0), "");
        let items = said["items"].as_array().unwrap().iter();
        items
            .map(|item| {
                (item["label"].as_str().unwrap().to_owned(), item["textEdit"]["newText"].as_str().unwrap().to_owned())
            })
            .collect()
    }

    fn offers(&mut self, behind: &str, line: &str, label: &str, text: &str) {
        let offered = self.offered(behind, line);
        assert!(offered.contains(&(label.to_owned(), text.to_owned())), "{line}: {label} is not among {offered:?}");
    }
}

/// A text with the edits of a file, which are given in any order.
fn edited(text: &str, edits: &Value) -> String {
    let octet = |place: &Value| {
        let line = usize::try_from(place["line"].as_u64().unwrap()).unwrap();
        let start: usize = text.split_inclusive('\n').take(line).map(str::len).sum();
        let mut units = usize::try_from(place["character"].as_u64().unwrap()).unwrap();
        let own = text[start..].char_indices().find(|(_, c)| {
            let here = units == 0;
            units = units.saturating_sub(c.len_utf16());
            here
        });
        own.map_or(text.len(), |(at, _)| start + at)
    };
    let mut spans: Vec<(usize, usize, &str)> = edits
        .as_array()
        .unwrap()
        .iter()
        .map(|edit| (octet(&edit["range"]["start"]), octet(&edit["range"]["end"]), edit["newText"].as_str().unwrap()))
        .collect();
    spans.sort_unstable();
    let mut text = text.to_owned();
    for (start, end, new) in spans.into_iter().rev() {
        text.replace_range(start..end, new);
    }
    text
}

fn codes(found: &[Value]) -> Vec<&str> {
    found.iter().map(|one| one["code"].as_str().unwrap()).collect()
}

#[test]
fn findings_come_and_go_as_the_plan_is_typed() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    assert_eq!(desk.editor.found_in(&plan), Vec::<Value>::new());
    // A character outside the first plane is two units wide.
    let (line, unit) = desk.place("domain-server = [\"10.64.0.53\"", 0);
    desk.editor.change(&plan, (line, unit), (line, unit + 13), "# 🔭\ndomian-server");
    let found = desk.editor.found_in(&plan);
    assert_eq!((codes(&found)[0], codes(&found)[1]), ("unknown-option", "no-name-server"), "{found:#?}");
    let range = json!({ "start": { "line": line + 1, "character": 0 }, "end": { "line": line + 1, "character": 13 } });
    assert_eq!((&found[0]["range"], &found[0]["severity"]), (&range, &json!(1)));
    assert!(found[0]["message"].as_str().unwrap().contains("try domain-server"), "{found:#?}");
    // What is to be written instead is offered, and mends it.
    let actions = |desk: &mut Desk, range: &Value| {
        let params = json!({ "textDocument": { "uri": uri(&plan) }, "range": range, "context": { "diagnostics": [] } });
        desk.editor.ask("textDocument/codeAction", params).unwrap()
    };
    let offered = actions(&mut desk, &range);
    assert_eq!((&offered[0]["title"], &offered[0]["isPreferred"]), (&json!("Write domain-server"), &json!(false)));
    let edit = &offered[0]["edit"]["changes"][uri(&plan)][0];
    assert_eq!(edit["newText"], "domain-server");
    desk.editor.change(&plan, (line + 1, 0), (line + 1, 13), "domain-server");
    assert_eq!(desk.editor.found_in(&plan), Vec::<Value>::new());
    assert_eq!(actions(&mut desk, &range), json!([]));
    // A word of the trade is mended with all others that leave no doubt.
    desk.editor.change(&plan, (line + 1, 0), (line + 1, 13), "nameservers");
    desk.editor.found_in(&plan);
    let offered = actions(&mut desk, &range);
    assert_eq!(offered[0]["isPreferred"], true);
    assert_eq!(
        (&offered[1]["kind"], &offered[1]["edit"]["changes"][uri(&plan)][0]["newText"]),
        (&json!("source.fixAll"), &json!("domain-server"))
    );
    desk.editor.end();
}

/// What is found in a codebook is shown in it, as it is typed and before it is saved.
#[test]
fn a_codebook_that_is_open_stands_for_that_on_disk() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    let book = plan.with_file_name("codebooks").join("tern-intercoms.toml");
    assert_eq!(desk.editor.found_in(&plan), Vec::<Value>::new());
    let text = fs::read_to_string(&book).unwrap();
    desk.editor.open(&book, &text);
    desk.editor.found_in(&book);
    let line = text.lines().position(|line| line == "name = \"ring\"").unwrap();
    desk.editor.change(&book, (line, 8), (line, 12), "bells");
    let found = desk.editor.found_when(&plan, |found| !found.is_empty());
    assert!(codes(&found).contains(&"unknown-option"), "{found:#?}");
    desk.editor.change(&book, (line + 1, 0), (line + 1, 0), "layuot = 1\n");
    let found = desk.editor.found_when(&book, |found| !found.is_empty());
    assert!(codes(&found).contains(&"unknown-key"), "{found:#?}");
    desk.editor.tell("textDocument/didClose", json!({ "textDocument": { "uri": uri(&book) } }));
    desk.editor.found_when(&plan, <[Value]>::is_empty);
    desk.editor.end();
}

#[test]
fn what_stands_under_the_pointer_is_told() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    desk.editor.found_in(&plan);
    for (piece, behind, says) in [
        (
            "domain-server = [",
            3,
            &["**v4:6** domain-server", "`ipv4+`", "RFC 2132, section 3.8", "8 octets: `0a 40 00 35 0a 40 00 36`"][..],
        ),
        (
            "router = \"10.64.4.1\"",
            12,
            &[
                "**10.64.4.1**",
                "on control-room (10.64.4.0/23): in no pool",
                "sent as v4:3 router",
                "4 octets: `0a 40 04 01`",
            ],
        ),
        ("\"10.64.4.20-10.64.5.250\"", 16, &["**10.64.5.250**", "on control-room", "in its pool"]),
        ("\"10.64.5.128-", 3, &["**10.64.5.128**", "in the pool of fleet intercoms"]),
        ("address = \"10.64.8.13\"", 15, &["reserved for 02:00:5e:00:53:33, dome-3"]),
        (
            "\"tern:ring\" = \"bell\"",
            4,
            &["**tern:1** ring", "Values: silent (0), bell (1), chime (2)", "1 octet: `01`"],
        ),
        ("PORT = 5061", 1, &["**tern:224** settings", "10.64.0.70"]),
        ("withhold = [\"ntp-servers\"]", 14, &["**v4:42** ntp-servers"]),
        ("exclude = [", 2, &["**exclude**", "not"]),
        ("managed = true", 2, &["**managed**", "flags M and O"]),
        (
            "network = \"domes\"",
            12,
            &["**network domes** 10.64.8.0/21, 2001:db8:64:8::/64", "96 IPv4 addresses to lease"],
        ),
        ("[fleet.radios]", 8, &["**fleet radios**", "recognised by"]),
        ("rule = \"reservation-in-pool\"", 12, &["**reservation-in-pool**"]),
    ] {
        let said = desk.hover(piece, behind);
        assert!(says.iter().all(|says| said.contains(says)), "{piece}: {said}");
    }
    assert_eq!(desk.hover("# to everyone", 3), "");
    desk.editor.end();
}

#[test]
fn what_can_be_written_is_offered() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    desk.editor.found_in(&plan);
    desk.offers("lease = \"12h\"", "ser", "server-duid", "server-duid");
    desk.offers("[network.control-room]", "rel", "relay", "relay");
    desk.offers("[network.control-room]", "advertise.", "managed", "managed");
    // Options by their own names, those of the other family, the trade's and vendors'.
    desk.offers("[send.v4]", "dom", "domain-server", "domain-server");
    desk.offers("[send.v4]", "dns", "dns-servers", "domain-server");
    desk.offers("[send.v4]", "gate", "gateway", "router");
    desk.offers("[send.v6]", "domain", "domain-server", "dns-servers");
    desk.offers("[fleet.radios.send.v4]", "\"tern:\"", "tern:ring", "\"tern:ring\"");
    desk.offers("[fleet.radios.send.v4]", "tern", "tern:ring", "\"tern:ring\"");
    let options = desk.offered("[send.v6]", "r");
    assert!(options.iter().all(|(_, text)| text != "router" && text != "address-time"), "{options:?}");
    // Values that have names, and the keys inside of a value.
    desk.offers("[fleet.radios.send.v4]", "\"tern:ring\" = ", "chime", "\"chime\"");
    desk.offers("[fleet.radios.send.v4]", "\"tern:ring\" = \"ch\"", "chime", "\"chime\"");
    desk.offers("[fleet.radios.send.v4]", "\"tern:settings\" = { S }", "SERVER", "SERVER");
    desk.offers("[network.visitors.advertise]", "preference = ", "high", "\"high\"");
    desk.offers("[network.mast]", "ipv6 = ", "elsewhere", "\"elsewhere\"");
    // Networks and fleets.
    desk.offers("[[reservation]]", "network = \"do\"", "domes", "\"domes\"");
    desk.offers("[[expect]]", "fleets = [\"int\"]", "intercoms", "\"intercoms\"");
    desk.offers("[check]", "[fleet.radios.on.", "visitors", "visitors");
    desk.offers("[check]", "allow = [\"no-\"]", "no-domain", "\"no-domain\"");
    desk.offers("[fleet.radios]", "match = { vend }", "vendor-class", "vendor-class");
    // A codebook has keys of its own.
    let book = desk.plan.with_file_name("codebooks").join("new.toml");
    desk.editor.open(&book, "book = \"site\"\n[[option]]\nsta\nstatus = \n");
    let said = desk.editor.at("textDocument/completion", &book, (2, 3));
    assert!(said["items"].as_array().unwrap().iter().any(|item| item["label"] == "status"), "{said}");
    let said = desk.editor.at("textDocument/completion", &book, (3, 9));
    assert!(said["items"].as_array().unwrap().iter().any(|item| item["label"] == "deprecated"), "{said}");
    desk.editor.end();
}

#[test]
fn names_lead_to_where_they_are_defined() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    desk.editor.found_in(&plan);
    let network = desk.place("[network.domes]", 9);
    let fleet = desk.place("[fleet.intercoms]", 7);
    for (piece, behind, file, place) in [
        ("network = \"domes\"\nmac", 12, "plan.toml", Some(network)),
        ("fleets = [\"intercoms\"]", 13, "plan.toml", Some(fleet)),
        ("[fleet.intercoms.on.control-room.send", 8, "plan.toml", Some(fleet)),
        ("\"tern:ring\" = \"chime\"", 4, "codebooks/tern-intercoms.toml", None),
        ("\"codebooks/gannet-radios.toml\"", 4, "codebooks/gannet-radios.toml", Some((0, 0))),
        ("reservations = \"reservations.csv\"", 20, "reservations.csv", Some((0, 0))),
    ] {
        let from = desk.place(piece, behind);
        let found = desk.editor.at("textDocument/definition", &plan, from);
        assert_eq!(found["uri"], uri(&plan.with_file_name("").join(file)), "{piece}");
        if let Some((line, unit)) = place {
            assert_eq!(found["range"]["start"], json!({ "line": line, "character": unit }), "{piece}");
        }
    }
    let router = desk.place("router = \"10.64.4.1\"", 2);
    assert_eq!(desk.editor.at("textDocument/definition", &plan, router), Value::Null);
    desk.editor.end();
}

/// A network has another name everywhere at once: in headings, in values, in the table of reservations. The plan means the same.
#[test]
fn networks_and_fleets_can_be_renamed() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    desk.editor.found_in(&plan);
    let place = desk.place("[network.intercoms]", 12);
    let asked = desk.editor.at("textDocument/prepareRename", &plan, place);
    assert_eq!(asked["placeholder"], "intercoms");
    let rename = |desk: &mut Desk, piece: &str, behind: usize, new: &str| {
        let (line, unit) = desk.place(piece, behind);
        let params = json!({ "textDocument": { "uri": uri(&plan) }, "position": { "line": line, "character": unit }, "newName": new });
        desk.editor.ask("textDocument/rename", params)
    };
    let changes = rename(&mut desk, "[network.intercoms]", 12, "phones on the wall").unwrap()["changes"].take();
    let table = desk.plan.with_file_name("reservations.csv");
    let own = edited(&desk.text, &changes[uri(&desk.plan)]);
    assert!(
        own.contains("[network.\"phones on the wall\".send.v4]")
            && own.contains("network = \"phones on the wall\", reason"),
        "{own}"
    );
    assert!(own.contains("[fleet.intercoms]"), "the fleet of that name is another thing");
    let cells = edited(&fs::read_to_string(&table).unwrap(), &changes[uri(&table)]);
    assert!(cells.contains("phones on the wall"), "{cells}");
    fs::write(&desk.plan, &own).unwrap();
    fs::write(&table, cells).unwrap();
    oplex(&["check", desk.plan.to_str().unwrap()]).assert().code(0);
    let changes = rename(&mut desk, "[fleet.boot]", 8, "controllers").unwrap()["changes"].take();
    let own = edited(&desk.text, &changes[uri(&desk.plan)]);
    assert!(own.contains("[fleet.controllers.boot]") && own.contains("[fleet.controllers]\n"), "{own}");
    let taken = rename(&mut desk, "[fleet.boot]", 8, "radios").unwrap_err();
    assert_eq!(taken["message"], "there is a fleet of the name radios already");
    assert!(rename(&mut desk, "title =", 2, "x").is_err());
    desk.editor.end();
}

/// Whatever is typed, and however much of it: the server answers.
#[test]
fn a_plan_in_the_middle_of_being_typed_ends_nothing() {
    let mut desk = Desk::new(|text| text);
    let plan = desk.plan.clone();
    let text = desk.text.clone();
    for at in (0..text.len()).step_by(97).filter(|at| text.is_char_boundary(*at)) {
        let whole = json!([{ "text": &text[..at] }]);
        desk.editor.tell(
            "textDocument/didChange",
            json!({ "textDocument": { "uri": uri(&plan), "version": at }, "contentChanges": whole }),
        );
        let line = text[..at].matches('\n').count();
        let unit = text[..at].rsplit('\n').next().unwrap().encode_utf16().count();
        for method in
            ["textDocument/hover", "textDocument/completion", "textDocument/definition", "textDocument/prepareRename"]
        {
            desk.editor.at(method, &plan, (line, unit));
        }
    }
    desk.editor.at("textDocument/hover", &plan, (100_000, 100_000));
    assert_eq!(desk.editor.ask("textDocument/foldingRange", json!({})).unwrap_err()["code"], -32601);
    assert_eq!(desk.editor.ask("textDocument/hover", json!({ "position": 7 })).unwrap_err()["code"], -32602);
    desk.editor.tell("textDocument/didChange", json!({ "nothing": 1 }));
    let other = plan.with_file_name("Other.toml");
    desk.editor.open(&other, "[package]\nname = 1\n");
    let said = desk.editor.at("textDocument/hover", &other, (1, 2));
    assert_eq!(said, Value::Null, "other TOML files are nobody's business");
    desk.editor.end();
}

/// A table of reservations as spreadsheets write it: semicolons, quotes, a column elsewhere, lines that end in both.
#[test]
fn a_network_is_renamed_in_tables_of_all_forms() {
    let table = "mac;name;\"network\"\r\n# the wall\r\n02:00:5e:00:53:a1;\"wall; north\";\"yard\"\r\n02:00:5e:00:53:a2;gate;yard\r\n02:00:5e:00:53:a3;yard;roof\r\n";
    let plan = "reservations = \"reservations.csv\"\n[network.yard]\nsubnet = \"10.64.6.0/24\"\n[network.roof]\nsubnet = \"10.64.7.0/24\"\n\
         [fleet.terns]\nmatch = { vendor-class = \"Tern *\" }\non = { yard = { lease = \"1h\" }, \"roof\" = { lease = \"2h\" } }\n";
    let mut desk = Desk::new(|_| plan.to_owned());
    let csv = desk.plan.with_file_name("reservations.csv");
    fs::write(&csv, table).unwrap();
    let file = desk.plan.clone();
    desk.editor.tell("textDocument/didSave", json!({ "textDocument": { "uri": uri(&csv) } }));
    desk.editor.found_in(&file);
    let (line, unit) = desk.place("[network.yard]", 10);
    let mut rename = |new: &str| {
        let at = json!({ "line": line, "character": unit });
        let params = json!({ "textDocument": { "uri": uri(&file) }, "position": at, "newName": new });
        desk.editor.ask("textDocument/rename", params)
    };
    let changes = rename("court").unwrap()["changes"].take();
    let own = edited(plan, &changes[uri(&file)]);
    assert_eq!(own, plan.replace("yard", "court"), "in headings, and in a table in braces");
    let cells = edited(table, &changes[uri(&csv)]);
    assert_eq!(cells, table.replace("\"yard\"", "court").replace(";gate;yard", ";gate;court"), "a name is no network");
    let refused = rename("court, north").unwrap_err();
    assert_eq!(
        refused["message"],
        "reservations.csv has this network's name, and court, north cannot stand in a table"
    );
    assert_eq!(rename("roof").unwrap_err()["message"], "there is a network of the name roof already");
    assert_eq!(rename(" ").unwrap_err()["message"], "a name has one character at least");
    desk.editor.end();
}

/// What is written is what other editors complete by: the files of the project, and those beside what `new` writes.
#[test]
fn schemas_are_written_where_they_are_wanted() {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../schemas");
    for name in ["plan", "codebook", "message", "release", "content"] {
        let said = oplex(&["editor", "--schema", name]).assert().code(0);
        let file = fs::read_to_string(top.join(format!("{name}.json"))).unwrap();
        assert!(said.get_output().stdout == file.into_bytes(), "{name}");
    }
    let place = tempfile::tempdir().unwrap();
    let (plan, book) = (place.path().join("site.toml"), place.path().join("book.toml"));
    oplex(&["new", plan.to_str().unwrap()]).assert().code(0);
    oplex(&["new", "--codebook", book.to_str().unwrap()]).assert().code(0);
    for (beside, name) in [("plan.schema.json", "plan.json"), ("codebook.schema.json", "codebook.json")] {
        assert_eq!(fs::read_to_string(place.path().join(beside)).unwrap(), fs::read_to_string(top.join(name)).unwrap());
    }
    oplex(&["new", "--codebook", "--dual"]).assert().code(2);
}

/// Files that somebody else wrote: names that are markup or turn the direction of writing are text, and keys of very many parts,
/// tables of very many levels and a line as long as the file take no more than their size.
#[test]
fn files_of_strangers_do_no_harm() {
    let name = "*a* [b](c:d) `e`\u{202e}";
    let plan = format!(
        "[network.\"{name}\"]\nsubnet = \"10.64.4.0/24\"\n[[reservation]]\nnetwork = \"{name}\"\nmac = \"02:00:5e:00:53:01\"\n\"{name}\" = 1\n"
    );
    let mut desk = Desk::new(|_| plan);
    let file = desk.plan.clone();
    let found = desk.editor.found_in(&file);
    assert!(found.iter().any(|one| one["code"] == "unknown-key"), "{found:#?}");
    assert!(found.iter().all(|one| !one["message"].as_str().unwrap().contains('\u{202e}')), "{found:#?}");
    let said = desk.hover("network = \"*a*", 14);
    assert!(said.starts_with(r"**network \*a\* \[b\](c:d) \`e\`"), "{said}");
    assert!(!said.contains('\u{202e}'), "{said}");
    let dotted = format!("{}b = 1\n", "a.".repeat(200_000));
    let many = format!("{}b = 1\n", "a.".repeat(60)).repeat(5_000);
    let nested = format!("a = {}1{}\n", "{ b = ".repeat(50_000), " }".repeat(50_000));
    let long = format!("zzyzx = [{}]\n", "{ yzzyx = 1 }, ".repeat(40_000));
    for text in [dotted, many, nested, long] {
        let text = format!("[network.a]\nsubnet = \"10.64.4.0/24\"\n{text}");
        let whole = json!([{ "text": text }]);
        let document = json!({ "uri": uri(&file), "version": 3 });
        desk.editor.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": whole }));
        for method in ["textDocument/hover", "textDocument/completion", "textDocument/definition"] {
            desk.editor.at(method, &file, (2, 400));
        }
    }
    desk.editor.end();
}
