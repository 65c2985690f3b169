//! A browser that is driven by the WebDriver protocol (W3C, 2018), without a window.

use std::io::{BufRead as _, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread;
use std::time::{Duration, Instant};

use serde_json::{Value, json};

/// A browser with one page.
pub(crate) struct Browser {
    driver: Child,
    session: String,
}

impl Browser {
    /// Starts one of this size, where a driver is installed.
    pub(crate) fn start(width: u32, height: u32) -> Option<Self> {
        let mut driver = Command::new("chromedriver").arg("--port=0").stdout(Stdio::piped()).spawn().ok()?;
        let mut lines = BufReader::new(driver.stdout.take().unwrap()).lines();
        // `ChromeDriver was started successfully on port 40123.`
        let port = lines.find_map(|line| {
            let line = line.ok()?;
            line.trim_end_matches('.')
                .rsplit_once("successfully on port ")
                .and_then(|(_, port)| port.parse::<u16>().ok())
        });
        let driver_at = format!("http://127.0.0.1:{}/session", port.unwrap());
        let size = format!("--window-size={width},{height}");
        let options = json!({"args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", size]});
        let logs = json!({"browser": "ALL", "performance": "ALL"});
        let wanted = json!({"browserName": "chrome", "goog:chromeOptions": options, "goog:loggingPrefs": logs});
        let made = post(&driver_at, &json!({"capabilities": {"alwaysMatch": wanted}}));
        let session = format!("{driver_at}/{}", made["sessionId"].as_str().unwrap());
        Some(Self { driver, session })
    }

    pub(crate) fn open(&self, page: &Path) {
        self.ask("url", &json!({"url": format!("file://{}", page.display())}));
    }

    /// What a script returns.
    pub(crate) fn run(&self, script: &str) -> Value {
        self.ask("execute/sync", &json!({"script": script, "args": []}))
    }

    /// What a script returns once that is something: events of a page come after what was clicked.
    pub(crate) fn wait(&self, script: &str) -> Value {
        let until = Instant::now() + Duration::from_secs(20);
        loop {
            let found = self.run(script);
            if !found.is_null() {
                return found;
            }
            assert!(Instant::now() < until, "nothing came of {script}");
            thread::sleep(Duration::from_millis(20));
        }
    }

    /// Emulates a screen of this width, media or colour scheme, as developers' tools do.
    pub(crate) fn emulate(&self, command: &str, parameters: Value) -> Value {
        self.ask("goog/cdp/execute", &json!({"cmd": command, "params": parameters}))
    }

    /// Keeps what the window shows as a picture, in the folder that `OPLEX_PICTURES` names if it does.
    pub(crate) fn picture(&self, name: &str) {
        let Some(folder) = std::env::var_os("OPLEX_PICTURES") else { return };
        let got = ureq::get(format!("{}/screenshot", self.session)).config().proxy(None).build().call();
        let text = got.unwrap().body_mut().with_config().limit(64 << 20).read_to_string().unwrap();
        let said: Value = serde_json::from_str(&text).unwrap();
        let octets = data_encoding::BASE64.decode(said["value"].as_str().unwrap().as_bytes()).unwrap();
        std::fs::write(Path::new(&folder).join(format!("{name}.png")), octets).unwrap();
    }

    /// Clicks on what a selector finds.
    pub(crate) fn click(&self, selector: &str) {
        self.ask(&format!("element/{}/click", self.find(selector)), &json!({}));
    }

    /// Types into what a selector finds.
    pub(crate) fn write(&self, selector: &str, text: &str) {
        self.ask(&format!("element/{}/value", self.find(selector)), &json!({"text": text}));
    }

    /// What was logged since it was asked last: `browser` for the console, `performance` for the network as well.
    pub(crate) fn log(&self, kind: &str) -> Vec<Value> {
        self.ask("se/log", &json!({"type": kind})).as_array().cloned().unwrap_or_default()
    }

    /// The addresses of all that the page has requested since this was asked last.
    pub(crate) fn requests(&self) -> Vec<String> {
        let logged = self.log("performance").into_iter();
        let messages = logged.filter_map(|line| serde_json::from_str::<Value>(line["message"].as_str()?).ok());
        let sent = messages.filter(|event| event["message"]["method"] == "Network.requestWillBeSent");
        sent.map(|event| event["message"]["params"]["request"]["url"].as_str().unwrap().to_owned()).collect()
    }

    fn find(&self, selector: &str) -> String {
        let found = self.ask("element", &json!({"using": "css selector", "value": selector}));
        found.as_object().unwrap().values().next().unwrap().as_str().unwrap().to_owned()
    }

    fn ask(&self, what: &str, parameters: &Value) -> Value {
        post(&format!("{}/{what}", self.session), parameters)
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = ureq::delete(&self.session).config().proxy(None).build().call();
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}

fn post(url: &str, body: &Value) -> Value {
    // The driver is on this machine, whatever proxy leads to others.
    let sent = ureq::post(url).config().proxy(None).http_status_as_error(false).build().send(body.to_string());
    let text = sent.unwrap().body_mut().with_config().limit(64 << 20).read_to_string().unwrap();
    let mut said: Value = serde_json::from_str(&text).unwrap();
    assert!(said["value"]["error"].is_null(), "{url}: {}", said["value"]);
    said["value"].take()
}
