//! `oplex report` and `show --svg`: pages and drawings, as they are written, and as a browser shows them.

use std::fs;

use serde_json::json;
use snapbox::{file, str};

use crate::browser::Browser;
use crate::oplex;

/// Writes the report of a plan, with more that is said, and gives its path and text.
fn report(place: &std::path::Path, args: &[&str], code: i32) -> (std::path::PathBuf, String) {
    let page = place.join("report.html");
    let all = [&["report"], args, &["-o", page.to_str().unwrap()]].concat();
    oplex(&all).assert().code(code);
    let text = fs::read_to_string(&page).unwrap();
    (page, text)
}

#[test]
fn a_page_says_what_a_plan_is_and_what_is_wrong() {
    let place = tempfile::tempdir().unwrap();
    let (page, text) = report(place.path(), &["demo/plan.toml"], 0);
    let holds = [
        "<h1>Tarn Fell Observatory</h1>",
        "<p class=\"verdict good\">Nothing wrong; 1 finding allowed by the plan</p>",
        // The map, with what is leased, excluded, and for one fleet alone.
        "<title>10.64.4.40-10.64.4.49: excluded, 10 addresses</title>",
        "<title>10.64.5.128-10.64.5.159: only for intercoms, 32 addresses</title>",
        "reserved for dome-3",
        // What differs from a wider layer.
        "<td class=\"differs\">≠ withheld</td>",
        "<td class=\"differs\">≠ changes { VLAN = 4 }</td>",
        "largest reply 479 of 576 octets, to intercoms",
        "visitors learn nothing of the house</td><td class=\"good\">met</td>",
    ];
    for held in holds {
        assert!(text.contains(held), "{held} is not in the page");
    }
    // A report is replaced by a report, and nothing else is.
    oplex(&["report", "demo/broken.toml", "-o", page.to_str().unwrap()]).assert().code(1).stdout_eq(str![[r#"
[..]report.html: 19 errors, 4 warnings, 3 notes: this cannot be published ([..] kB)

"#]]);
    let text = fs::read_to_string(&page).unwrap();
    assert!(text.contains("<mark>domain-nmae</mark>"), "the characters that are wrong are marked");
    fs::write(&page, "something else").unwrap();
    oplex(&["report", "demo/plan.toml", "-o", page.to_str().unwrap()]).assert().code(2).stderr_eq(str![[r#"
oplex: [..]report.html: there is something there that is no report, and it is not replaced; name another file with -o

"#]]);
}

#[test]
fn a_page_has_the_releases_of_a_store_and_what_changes() {
    let place = tempfile::tempdir().unwrap();
    let store = place.path().join("releases");
    let store = store.to_str().unwrap();
    let publish = ["publish", "demo/plan.toml", "--store", store, "--author", "dana", "--note", "as agreed"];
    oplex(&publish).assert().code(0);
    let next = place.path().join("next.toml");
    let plan = fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/plan.toml")).unwrap();
    let plan = plan.replace("lease = \"2d\"", "lease = \"3d\"");
    let plan = plan.replace("\"codebooks/", concat!("\"", env!("CARGO_MANIFEST_DIR"), "/../../demo/codebooks/"));
    let plan = plan
        .replace("\"reservations.csv\"", concat!("\"", env!("CARGO_MANIFEST_DIR"), "/../../demo/reservations.csv\""));
    fs::write(&next, plan).unwrap();
    let (_, text) = report(place.path(), &[next.to_str().unwrap(), "--trust-paths", "--store", store], 0);
    for held in ["as agreed", "dana", "What changes since release 1", "network domes", "2d", "3d"] {
        assert!(text.contains(held), "{held} is not in the page");
    }
    let (_, text) = report(place.path(), &["r1", "--store", store], 0);
    assert!(text.contains("the first") && !text.contains("What changes"), "nothing came before");
}

#[test]
fn a_page_has_the_time_line_of_a_capture() {
    let place = tempfile::tempdir().unwrap();
    let (_, text) = report(place.path(), &["demo/morning.pcapng", "--plan", "demo/plan.toml"], 1);
    for held in [
        "146 messages of 20 clients, held against demo/plan.toml",
        "server-not-of-plan",
        "1 conversation, at worst error",
    ] {
        assert!(text.contains(held), "{held} is not in the page");
    }
    oplex(&["report", "demo/plan.toml", "--plan", "demo/plan.toml", "-o", "/dev/null/none"]).assert().code(2);
}

#[test]
fn the_map_of_a_network_is_a_drawing() {
    oplex(&["show", "demo/plan.toml", "--network", "control-room", "--svg"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/control-room.svg"]);
}

/// Networks of every size are drawn within their strip, in the terminal as well.
#[test]
fn maps_of_all_sizes_can_be_read() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let mut text = String::new();
    for (at, length) in (8..=31).chain([32]).enumerate() {
        text += &format!("[network.n{at}]\nsubnet = \"{}.0.0.0/{length}\"\n", 20 + at);
        text += &format!("pool = \"{}.0.0.{}\"\n", 20 + at, if length < 31 { "2" } else { "0" });
    }
    for (at, length) in [32, 64, 96, 126, 127].into_iter().enumerate() {
        text += &format!("[network.six{at}]\nprefix = \"2001:db8:{at}::/{length}\"\npool = \"2001:db8:{at}::1\"\n");
    }
    // Many small ranges are drawn as several at once.
    let ranges: Vec<String> = (0..2000).map(|at| format!("\"10.0.{}.{}\"", at / 100, 2 * (at % 100) + 1)).collect();
    text += &format!("[network.many]\nsubnet = \"10.0.0.0/16\"\npool = [{}]\n", ranges.join(", "));
    fs::write(&plan, text).unwrap();
    let shown = oplex(&["show", plan.to_str().unwrap()]).assert();
    let shown = String::from_utf8_lossy(&shown.get_output().stdout).into_owned();
    let strips =
        shown.lines().filter(|line| line.starts_with("  ") && line.contains(['█', '#']) && !line.contains("pool"));
    let widths: Vec<usize> = strips.map(|line| line.trim_start().chars().count()).collect();
    assert_eq!(widths.len(), 31, "{shown}");
    assert!(widths.iter().all(|width| (60..=120).contains(width)), "{widths:?}");
    // Some of these overlap, which the page says.
    let (_, page) = report(place.path(), &[plan.to_str().unwrap()], 1);
    assert!(page.contains("ranges, ") && page.len() < 400_000, "{} octets", page.len());
}

/// Names that would be markup, script or a direction of writing are text.
#[test]
fn hostile_names_are_text() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let evil = "</title><script>alert(1)</script><img src=x onerror=alert(2)>\\u202e\\u001b[2J\\\"'";
    let text = format!(
        "title = \"{evil}\"\n[network.\"{evil}\"]\nsubnet = \"10.0.0.0/24\"\npool = \"10.0.0.9\"\n\
         send.v4 = {{ router = \"10.0.0.1\", merit-dump-file = \"{evil}\" }}\n\
         [fleet.\"{evil}\"]\nmatch = {{ vendor-class = \"{evil}\" }}\n[fleet.\"{evil}\".on.\"{evil}\"]\npool = \"10.0.0.10\"\n\
         [[reservation]]\nnetwork = \"{evil}\"\nmac = \"02:00:5e:00:53:01\"\naddress = \"10.0.0.2\"\nname = \"{evil}\"\n\
         [[expect]]\ntitle = \"{evil}\"\nclient = {{ network = \"{evil}\", mac = \"02:00:5e:00:53:01\" }}\n"
    );
    fs::write(&plan, text).unwrap();
    let page = place.path().join("report.html");
    oplex(&["report", plan.to_str().unwrap(), "-o", page.to_str().unwrap()]).assert().code(1);
    let html = fs::read_to_string(&page).unwrap();
    assert_eq!(html.matches("<script>").count(), 1, "the page's own");
    assert!(!html.contains("<img") && !html.contains(['\u{202e}', '\u{1b}']), "nothing of the names is markup");
    let network = "</title><script>alert(1)</script><img src=x onerror=alert(2)>\u{202e}\u{1b}[2J\"'";
    let drawn = oplex(&["show", plan.to_str().unwrap(), "--network", network, "--svg"]).assert();
    let drawn = String::from_utf8_lossy(&drawn.get_output().stdout).into_owned();
    assert!(!drawn.contains("<script") && !drawn.contains("<img"), "{drawn}");
}

/// In a real browser: the filter and the theme do what they say, nothing is wrong on the console, and nothing is requested but
/// the page itself.
#[test]
#[ignore = "needs chromedriver"]
fn a_browser_filters_and_changes_the_theme() {
    let place = tempfile::tempdir().unwrap();
    let (page, _) = report(place.path(), &["demo/plan.toml"], 0);
    let browser = Browser::start(1280, 800).expect("chromedriver is installed");
    let screen = json!({"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": false});
    browser.emulate("Emulation.setDeviceMetricsOverride", screen.clone());
    browser.open(&page);
    browser.picture("report");
    let shown = || browser.run("return [...document.querySelectorAll('[data-row]')].filter(row => !row.hidden).length");
    let all = shown().as_u64().unwrap();
    browser.write("#find", "visitors tarnfell");
    // The filter runs with the next frame.
    let frame = || browser.run("return new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))");
    frame();
    let some = shown().as_u64().unwrap();
    assert!(0 < some && some < all, "{some} of {all}");
    assert_eq!(browser.run("return document.getElementById('found').textContent"), format!("{some} of {all} rows"));
    let paper = || browser.run("return getComputedStyle(document.body).backgroundColor");
    let before = paper();
    browser.click("#theme");
    assert_ne!(before, paper());
    browser.click("#theme");
    assert_eq!(before, paper());
    // A part of a map says below it what it is when it is reached by keyboard.
    browser.run(
        "const field = document.getElementById('find'); field.value = ''; field.dispatchEvent(new Event('input'))",
    );
    frame();
    let said =
        "document.querySelector('svg.strip rect.pool').focus(); return document.querySelector('.said').textContent";
    assert_eq!(browser.run(said), "10.64.4.20-10.64.4.39: pool, 20 addresses");
    // On a telephone nothing stands out to the right but what can be moved.
    browser.emulate(
        "Emulation.setDeviceMetricsOverride",
        json!({"width": 400, "height": 800, "deviceScaleFactor": 1, "mobile": true}),
    );
    assert_eq!(browser.run("return document.documentElement.scrollWidth"), 400);
    for theme in ["light", "dark"] {
        browser.run(&format!("document.documentElement.dataset.theme = '{theme}'"));
        assert_eq!(browser.run(FAINT), json!([]), "what is too faint to read on {theme}");
    }
    for (kind, args, code) in [("errors", &["demo/broken.toml"][..], 1), ("a capture", &["demo/morning.pcapng"], 0)] {
        let (page, _) = report(place.path(), args, code);
        browser.open(&page);
        assert_eq!(browser.run(FAINT), json!([]), "what is too faint to read of {kind}");
    }
    // The conversations of a capture, as they stand below what is wrong.
    browser.emulate("Emulation.setDeviceMetricsOverride", screen.clone());
    let (page, _) = report(place.path(), &["demo/morning.pcapng", "--plan", "demo/plan.toml"], 1);
    browser.open(&page);
    browser.run("window.scrollTo(0, 1170)");
    browser.picture("report-capture");
    browser.run("document.querySelector('.about').style.color = '#888a8c'");
    assert_eq!(browser.run(FAINT).as_array().unwrap().len(), 1, "what is too faint is found");
    assert_eq!(browser.log("browser"), Vec::<serde_json::Value>::new());
    let requested = browser.requests();
    assert!(requested.iter().all(|url| url.starts_with("file://") && url.ends_with("/report.html")), "{requested:?}");
    // Names that are markup do not run here, either.
    let plan = place.path().join("evil.toml");
    fs::write(&plan, "[network.\"<img src=x onerror=document.title=1>\"]\nsubnet = \"10.0.0.0/24\"\n").unwrap();
    let (page, _) = report(place.path(), &[plan.to_str().unwrap()], 0);
    browser.open(&page);
    assert_eq!(browser.run("return document.images.length"), 0);
    // Of very many networks each map is drawn when it is looked at, and is the same.
    let many: Vec<String> = (0..300).map(|at| format!("[network.n{at}]\nsubnet = \"10.{}.{}.0/24\"\npool = \"10.{}.{}.9\"\nsend.v4 = {{ router = \"10.{}.{}.1\" }}\n", at / 200, at % 200, at / 200, at % 200, at / 200, at % 200)).collect();
    fs::write(&plan, many.concat()).unwrap();
    let (page, _) = report(place.path(), &[plan.to_str().unwrap()], 0);
    browser.open(&page);
    browser.click("#networks details:nth-of-type(201) summary");
    let drawn = "const map = document.querySelector('details[open] .map'); return map && [...map.querySelectorAll('title')].map(title => title.textContent)";
    let parts = json!([
        "10.1.0.0: the network address",
        "10.1.0.1-10.1.0.8: in no pool, 8 addresses",
        "10.1.0.9: pool, 1 address",
        "10.1.0.10-10.1.0.254: in no pool, 245 addresses",
        "10.1.0.255: the broadcast address",
        "10.1.0.1 sent as v4:3 router"
    ]);
    assert_eq!(browser.wait(drawn), parts);
    assert_eq!(browser.log("browser"), Vec::<serde_json::Value>::new());
}

/// A script that lists texts whose contrast with what is behind them is under 4.5 (WCAG 2.1, 1.4.3).
const FAINT: &str = r#"
    const number = text => { const canvas = document.createElement('canvas').getContext('2d', {willReadFrequently: true});
        canvas.fillStyle = text; canvas.fillRect(0, 0, 1, 1); return [...canvas.getImageData(0, 0, 1, 1).data]; };
    const light = ([r, g, b]) => { const [x, y, z] = [r, g, b].map(v => v / 255).map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
        return 0.2126 * x + 0.7152 * y + 0.0722 * z; };
    const seen = new Set(), faint = [];
    for (const one of document.querySelectorAll('body *')) {
        if (![...one.childNodes].some(node => node.nodeType === 3 && node.data.trim()) || !one.getClientRects().length) continue;
        const style = getComputedStyle(one), svg = one.namespaceURI.endsWith('svg');
        if (one.tagName === 'title' || one.tagName === 'SCRIPT') continue;
        let behind = number(getComputedStyle(document.body).backgroundColor);
        if (svg && one.classList.contains('over')) {
            const box = one.getBoundingClientRect(), x = box.x + box.width / 2;
            const part = [...one.parentNode.querySelectorAll('rect')].find(rect => { const r = rect.getBoundingClientRect(); return r.x <= x && x <= r.right; });
            behind = number(getComputedStyle(part).fill);
        } else for (let at = one; at; at = at.parentElement) {
            const own = number(getComputedStyle(at).backgroundColor);
            if (own[3] === 255) { behind = own; break; }
        }
        const colour = svg ? style.fill : style.color, key = colour + behind;
        if (seen.has(key)) continue;
        seen.add(key);
        const [a, b] = [light(number(colour)), light(behind)];
        const contrast = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
        if (contrast < 4.5) faint.push(one.tagName + '.' + one.className + ' ' + colour + ' on ' + behind + ' ' + contrast.toFixed(2));
    }
    return faint;
"#;

/// What is too much for a page is counted on it, and a release that was gone back to says so.
#[test]
fn a_page_is_bounded_and_says_what_it_leaves_out() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let mut text = String::from(
        "[send.v4]\ndomain-server = \"10.255.0.53\"\ndomain-name = \"x.example\"\n[network.a]\nsubnet = \"10.0.0.0/12\"\npool = \"10.15.0.1-10.15.0.9\"\nsend.v4 = { router = \"10.0.0.1\" }\n",
    );
    for at in 0..2300 {
        text += &format!(
            "[[reservation]]\nnetwork = \"a\"\nmac = \"02:00:5e:00:{:02x}:{:02x}\"\naddress = \"10.1.{}.{}\"\n",
            at / 256,
            at % 256,
            at / 200,
            at % 200 + 1
        );
    }
    fs::write(&plan, &text).unwrap();
    let (_, page) = report(place.path(), &[plan.to_str().unwrap()], 0);
    assert!(page.contains("and 300 more, which oplex show --format json lists"), "reservations");
    // Marks that are near each other are one, which says how many they are.
    assert!(page.contains("10.1.0.1 reserved for 02:00:5e:00:00:00\n") && page.contains(" more</title>"), "marks");
    let wrong: String = (0..700).map(|at| format!("zzyzx{at} = 1\n")).collect();
    fs::write(&plan, wrong + &text).unwrap();
    let (_, page) = report(place.path(), &[plan.to_str().unwrap()], 1);
    assert!(page.contains("700 errors") && page.contains("findings more, which oplex check lists"), "findings");
}

/// Where ranges meet, what counts is what clients get: excluded before a fleet's, a fleet's before the pool's.
#[test]
fn a_map_shows_what_counts_where_ranges_meet() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let text = "[send.v4]\ndomain-server = \"10.255.0.53\"\ndomain-name = \"x.example\"\n[network.a]\nsubnet = \"10.0.0.0/24\"\n\
        pool = [\"10.0.0.10-10.0.0.99\", \"10.0.0.80-10.0.0.120\"]\nexclude = [\"10.0.0.50-10.0.0.69\", \"10.0.0.200\"]\nsend.v4 = { router = \"10.0.0.1\" }\n\
        [fleet.terns]\nmatch = { vendor-class = \"Tern *\" }\n[fleet.terns.on.a]\npool = \"10.0.0.60-10.0.0.79\"\n";
    fs::write(&plan, text).unwrap();
    let drawn = oplex(&["show", plan.to_str().unwrap(), "--network", "a", "--svg"]).assert();
    let drawn = String::from_utf8_lossy(&drawn.get_output().stdout).into_owned();
    let parts: Vec<&str> = drawn.split("<title>").skip(2).map(|part| part.split('<').next().unwrap()).collect();
    assert_eq!(
        parts,
        [
            "10.0.0.0: the network address",
            "10.0.0.1-10.0.0.9: in no pool, 9 addresses",
            "10.0.0.10-10.0.0.49: pool, 40 addresses",
            "10.0.0.50-10.0.0.69: excluded, 20 addresses",
            "10.0.0.70-10.0.0.79: only for terns, 10 addresses",
            "10.0.0.80-10.0.0.120: pool, 41 addresses",
            "10.0.0.121-10.0.0.199: in no pool, 79 addresses",
            "10.0.0.200: excluded, 1 address",
            "10.0.0.201-10.0.0.254: in no pool, 54 addresses",
            "10.0.0.255: the broadcast address",
            "10.0.0.1 sent as v4:3 router",
        ]
    );
}

/// Of very many layers and options the matrix has as many cells as a browser can bear, and says what it leaves out.
#[test]
fn a_matrix_of_very_many_is_bounded() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let mut book = String::from("book = \"kite\"\ncarriers = [\"v4:43\"]\n");
    let mut text = String::from(
        "codebooks = [\"book.toml\"]\n[send.v4]\ndomain-server = \"10.255.0.53\"\ndomain-name = \"x.example\"\n",
    );
    for code in 1..=250 {
        book += &format!("[[option]]\ncode = {code}\nname = \"o{code}\"\nlayout = \"u8\"\nreference = \"x\"\n");
    }
    for at in 0..2500 {
        let (a, b) = (at / 200, at % 200);
        text += &format!(
            "[network.n{at}]\nsubnet = \"10.{a}.{b}.0/24\"\npool = \"10.{a}.{b}.9\"\nsend.v4 = {{ router = \"10.{a}.{b}.1\", \"kite:o{}\" = 1 }}\n",
            at % 250 + 1
        );
    }
    fs::write(place.path().join("book.toml"), book).unwrap();
    fs::write(&plan, text).unwrap();
    let (_, page) = report(place.path(), &[plan.to_str().unwrap()], 0);
    assert!(page.contains("more options, which oplex show --format csv lists"));
    assert!(page.matches("<td").count() < 420_000, "{} cells", page.matches("<td").count());
}
