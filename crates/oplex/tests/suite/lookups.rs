//! Finding options by what people know of them.

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::nearest::nearest;
use oplex::octets::hex;

fn found(query: &str) -> Vec<String> {
    Codebook::standard().search(query).iter().map(|option| option.id().to_string()).collect()
}

#[test]
fn options_are_found_by_id_name_and_alias() {
    let codebook = Codebook::standard();
    for query in ["v4:3", "v4:router", "router", "gateway", "v4:gateway", "3"] {
        assert_eq!(codebook.find(query).map(|option| option.id().to_string()).as_deref(), Ok("v4:3"), "{query}");
    }
    assert_eq!(codebook.find("v4:82/1").unwrap().spelled(), "v4:82/agent-circuit-id");
    assert_eq!(codebook.find("v4:82/agent-remote-id").unwrap().id().to_string(), "v4:82/2");
    assert_eq!(codebook.find("v4:relay-agent-information/2").unwrap().id().to_string(), "v4:82/2");
    assert_eq!(codebook.find("v4:162/alpn").unwrap().id().to_string(), "v4:162/1");
    assert_eq!(codebook.own(Protocol::V4, 121).unwrap().label(), "v4:121 classless-static-route");
}

#[test]
fn the_nearest_is_offered_for_what_is_unknown() {
    let near = |query: &str| Codebook::standard().find(query).unwrap_err().to_string();
    assert_eq!(near("v4:routr"), "unknown option `v4:routr`; did you mean `v4:router`?");
    assert_eq!(near("v4:domain_server"), "unknown option `v4:domain_server`; did you mean `v4:domain-server`?");
    assert_eq!(near("v4:999"), "unknown option `v4:999`");
    assert_eq!(near("v4:3/1"), "unknown option `v4:3/1`");
    assert_eq!(near("tern:settings"), "unknown option `tern:settings`");
    assert_eq!(near(""), "unknown option ``");
    assert_eq!(nearest("soubnet", ["subnet", "pool"]), Some("subnet"));
    assert_eq!(nearest("xyzzy", ["subnet", "pool"]), None);
    assert_eq!(nearest("", ["subnet"]), None);
}

#[test]
fn searches_rank_what_is_named_before_what_is_mentioned() {
    assert_eq!(found("gateway"), ["v4:3"]);
    assert_eq!(found("121")[0], "v4:121");
    assert_eq!(found("rfc 8910"), ["v4:114", "v6:103", "ra:37", "v4:160"]);
    assert_eq!(found("RFC3397"), ["v4:119"]);
    let phones = found("phone");
    for wanted in ["v4:43", "v4:66", "v4:120", "v4:125", "v4:150"] {
        assert!(phones.iter().any(|id| id == wanted), "{wanted} in {phones:?}");
    }
    let radios = found("radio");
    assert!(radios.contains(&"v4:138".to_owned()) && radios.contains(&"v4:43".to_owned()), "{radios:?}");
    assert_eq!(found("circuit")[0], "v4:82/1");
    assert_eq!(found("route").last().map(String::as_str), Some("ra:26"));
    let routes = found("static");
    let place = |id: &str| routes.iter().position(|at| at == id);
    assert!(place("v4:121") < place("v4:33"), "what is obsolete comes after what took its place: {routes:?}");
    assert_eq!(found("  "), Vec::<String>::new());
    assert_eq!(found("no such thing"), Vec::<String>::new());
}

#[test]
fn hexadecimal_text_is_read_in_any_grouping() {
    for text in [
        "0a400401",
        "0A400401",
        "0a:40:04:01",
        "a:40:4:1",
        "0a 40 04 01",
        "0x0a400401",
        "0x0a,0x40,0x04,0x01",
        "0a-40-04-01",
        "0a40.0401",
        "\\x0a\\x40\\x04\\x01",
        " 0a40\n0401 ",
    ] {
        assert_eq!(hex::parse(text), Ok(vec![10, 64, 4, 1]), "{text:?}");
    }
    assert_eq!(hex::parse(""), Ok(vec![]));
    let error = |text: &str| hex::parse(text).map_err(|error| (error.span(), error.to_string()));
    assert_eq!(
        error("0a4"),
        Err((0..3, "the 3 digits from character 1 are an odd number, so half an octet is missing".to_owned()))
    );
    assert_eq!(error("0a 40x"), Err((5..6, "'x' at character 6 is not a hexadecimal digit (0-9, a-f)".to_owned())));
    assert_eq!(error("0x0é"), Err((3..5, "'é' at character 4 is not a hexadecimal digit (0-9, a-f)".to_owned())));
    assert_eq!(
        error("7"),
        Err((0..1, "the 1 digits from character 1 are an odd number, so half an octet is missing".to_owned()))
    );
}

#[test]
fn octets_are_written_in_the_common_forms() {
    let octets = [0x0a, b'@', b'\\', 0];
    assert_eq!(hex::plain(&octets), "0a405c00");
    assert_eq!(hex::colon(&octets), "0a:40:5c:00");
    assert_eq!(hex::spaced(&octets), "0a 40 5c 00");
    assert_eq!(hex::escaped(&octets), "\\x0a@\\x5c\\x00");
    assert_eq!(hex::colon(&[]), "");
}

proptest::proptest! {
    /// Words that share too few letters are passed over, and that changes no answer.
    #[test]
    fn the_nearest_word_is_the_one_most_alike(word in "[a-eA-Z-]{0,12}", known in proptest::collection::vec("[a-e-]{1,12}", 0..12)) {
        let lower = word.to_lowercase();
        let like = |candidate: &str| {
            let spelling = strsim::jaro_winkler(&lower, candidate).max(strsim::normalized_damerau_levenshtein(&lower, candidate));
            let part = lower.len() > 2 && candidate.split('-').any(|part| part == lower);
            if part { spelling.max(0.8) } else { spelling }
        };
        let mut best: Option<(f64, &str)> = None;
        for candidate in &known {
            if like(candidate) > best.map_or(0.72, |(score, _)| score) {
                best = Some((like(candidate), candidate));
            }
        }
        assert_eq!(nearest(&word, known.iter().map(String::as_str)), best.map(|(_, candidate)| candidate));
    }
}
