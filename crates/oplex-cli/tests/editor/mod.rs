//! The other end of `oplex editor`: an editor that speaks the protocol (LSP 3.17) with the built program.

use std::collections::HashMap;
use std::io::{BufRead as _, BufReader, Read as _, Write as _};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::Duration;

use serde_json::{Value, json};

/// No conversation with a server takes longer.
const PATIENCE: Duration = Duration::from_secs(120);

pub(crate) struct Editor {
    server: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    next: u64,
    /// What was found in each file, as it was said last.
    pub(crate) found: HashMap<String, Vec<Value>>,
}

impl Editor {
    pub(crate) fn start(program: &Path) -> Self {
        let mut server =
            Command::new(program).arg("editor").stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
        // Nobody waits for ever for a server that says nothing.
        let id = server.id().to_string();
        std::thread::spawn(move || {
            std::thread::sleep(PATIENCE);
            let _ = Command::new("kill").arg(id).status();
        });
        let (to, from) = (server.stdin.take().unwrap(), BufReader::new(server.stdout.take().unwrap()));
        let mut editor = Self { server, to, from, next: 0, found: HashMap::new() };
        let about = editor.ask("initialize", json!({ "capabilities": {} })).unwrap();
        assert_eq!(about["serverInfo"]["name"], "oplex");
        editor.tell("initialized", json!({}));
        editor
    }

    pub(crate) fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    /// The result of a request, or its error.
    pub(crate) fn ask(&mut self, method: &str, params: Value) -> Result<Value, Value> {
        self.next += 1;
        let id = self.next;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        loop {
            let said = self.receive();
            if said["id"] == id {
                return if said["error"].is_null() { Ok(said["result"].clone()) } else { Err(said["error"].clone()) };
            }
        }
    }

    pub(crate) fn open(&mut self, path: &Path, text: &str) {
        let document = json!({ "uri": uri(path), "languageId": "toml", "version": 1, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": document }));
    }

    /// Replaces what stands between two places, each a line and a unit in it, from 0.
    pub(crate) fn change(&mut self, path: &Path, from: (usize, usize), to: (usize, usize), text: &str) {
        let range = json!({ "start": position(from), "end": position(to) });
        let changes = json!([{ "range": range, "text": text }]);
        self.tell(
            "textDocument/didChange",
            json!({ "textDocument": { "uri": uri(path), "version": 2 }, "contentChanges": changes }),
        );
    }

    /// What is found in a file, when that is said next.
    pub(crate) fn found_in(&mut self, path: &Path) -> Vec<Value> {
        self.found_when(path, |_| true)
    }

    /// What is found in a file, when that is said next and is as is waited for.
    pub(crate) fn found_when(&mut self, path: &Path, is: impl Fn(&[Value]) -> bool) -> Vec<Value> {
        let uri = uri(path);
        self.found.remove(&uri);
        while !self.found.get(&uri).is_some_and(|found| is(found)) {
            self.receive();
        }
        self.found[&uri].clone()
    }

    /// A request about a place of a file.
    pub(crate) fn at(&mut self, method: &str, path: &Path, place: (usize, usize)) -> Value {
        self.ask(method, json!({ "textDocument": { "uri": uri(path) }, "position": position(place) })).unwrap()
    }

    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        write!(self.to, "Content-Length: {}\r\n\r\n{text}", text.len()).unwrap();
        self.to.flush().unwrap();
    }

    fn receive(&mut self) -> Value {
        let mut length = 0;
        loop {
            let mut line = String::new();
            assert!(self.from.read_line(&mut line).unwrap() > 0, "the server has ended");
            match line.trim().split_once(": ") {
                Some(("Content-Length", count)) => length = count.parse().unwrap(),
                _ if line.trim().is_empty() => break,
                _ => {}
            }
        }
        let mut octets = vec![0; length];
        self.from.read_exact(&mut octets).unwrap();
        let said: Value = serde_json::from_slice(&octets).unwrap();
        if said["method"] == "textDocument/publishDiagnostics" {
            let found = said["params"]["diagnostics"].as_array().unwrap().clone();
            self.found.insert(said["params"]["uri"].as_str().unwrap().to_owned(), found);
        }
        said
    }

    /// Says goodbye; the server ends as the protocol has it.
    pub(crate) fn end(mut self) {
        assert_eq!(self.ask("shutdown", Value::Null), Ok(Value::Null));
        self.tell("exit", Value::Null);
        assert!(self.server.wait().unwrap().success());
    }
}

pub(crate) fn uri(path: &Path) -> String {
    format!("file://{}", path.display())
}

fn position((line, unit): (usize, usize)) -> Value {
    json!({ "line": line, "character": unit })
}
