//! `oplex probe`: what is said where nothing can be asked. With servers it is tried in a namespace, see `namespaces`.

use snapbox::str;

use crate::oplex;

#[test]
fn what_cannot_be_asked_is_said() {
    oplex(&["probe", "demo/plan.toml", "--only", "ntpd"]).assert().code(2).stderr_eq(str![[r#"
oplex: there is no service `ntpd`; did you mean ntp? There are router, dns, ntp, tftp, file, portal, sip, log, lpr, smtp, pop3, web, capwap

"#]]);
    oplex(&["probe", "demo/plan.toml", "--timeout", "2h"]).assert().code(2).stderr_eq(str![[r#"
oplex: --timeout is between a second and a minute

"#]]);
    oplex(&["probe", "demo/plan.toml", "--network", "mast", "--only", "portal"]).assert().code(0).stdout_eq(str![[
        r#"
The plan names no server that could be asked

"#
    ]]);
    // Nobody is asked what has no answer.
    let radios = ["probe", "demo/plan.toml", "--only", "capwap", "--format", "json"];
    let json = oplex(&radios).assert().code(0);
    let json: serde_json::Value = serde_json::from_slice(&json.get_output().stdout).unwrap();
    assert_eq!(json["format"], "oplex-probe/1");
    let first = &json["servers"][0];
    assert_eq!(
        (&first["service"], &first["host"], &first["verdict"], &first["from"]["line"]),
        (&"capwap".into(), &"10.64.0.90".into(), &"not tried".into(), &136.into())
    );
}
