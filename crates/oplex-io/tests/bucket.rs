//! Stores in buckets, against a real engine and with faults on the way.
//!
//! `.ci/bucket start DIR 7481` starts the engine; `.ci/run` does so where it is installed.

#![cfg(feature = "s3")]
#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::io::{Read, Write};
use std::net::{Shutdown, TcpListener, TcpStream};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use oplex::plan::{Loaded, Plan};
use oplex::release::compile;
use oplex_io::store::{Entry, Prepared, Release, Store, StoreError};

const ENGINE: &str = "127.0.0.1:7481";

fn plan(router: u8) -> Loaded {
    let text = format!(
        "title = \"Yard\"\n[network.yard]\nsubnet = \"10.64.9.0/24\"\npool = \"10.64.9.20-10.64.9.90\"\nsend.v4 = {{ router = \"10.64.9.{router}\" }}\n"
    );
    Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()))
}

fn publish(store: &Store, router: u8, after: Option<&Release>) -> Result<Release, StoreError> {
    let loaded = plan(router);
    let document = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    store.publish(&Prepared::new(&document, &loaded.sources).unwrap(), after, Entry::default())
}

fn options(endpoint: &str) -> [(String, String); 5] {
    [
        ("AWS_ENDPOINT", format!("http://{endpoint}").as_str()),
        ("AWS_ALLOW_HTTP", "true"),
        ("AWS_ACCESS_KEY_ID", "ours"),
        ("AWS_SECRET_ACCESS_KEY", "secret"),
        ("AWS_REGION", "us-east-1"),
    ]
    .map(|(key, value)| (key.to_owned(), value.to_owned()))
}

/// A store of its own in the bucket, through this endpoint.
fn store(name: &str, endpoint: &str) -> Store {
    let own = format!("s3://oplex/{name}-{}", std::process::id());
    Store::open_with(own, options(endpoint)).unwrap()
}

/// What happens to a request on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fault {
    None,
    /// The engine does not see it, and an error of this number comes back.
    Refused(u16),
    /// The engine sees it, and its answer is lost.
    Cut,
    /// It takes its time.
    Slow,
}

/// What happens to a request by its method and number.
type WhatHappens = fn(&str, usize) -> Fault;

/// Stands between a store and the engine, and does to each request what is said of its method and number.
struct Proxy {
    endpoint: String,
    seen: Arc<AtomicUsize>,
}

impl Proxy {
    fn new(fault: impl Fn(&str, usize) -> Fault + Send + Sync + 'static) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let endpoint = listener.local_addr().unwrap().to_string();
        let seen = Arc::new(AtomicUsize::new(0));
        let (count, fault) = (Arc::clone(&seen), Arc::new(fault));
        std::thread::spawn(move || {
            for client in listener.incoming().flatten() {
                let (count, fault) = (Arc::clone(&count), Arc::clone(&fault));
                std::thread::spawn(move || drop(relayed(client, &count, &*fault)));
            }
        });
        Self { endpoint, seen }
    }
}

/// One request: read whole, passed on, and its answer given back, on a connection for itself.
fn relayed(mut client: TcpStream, count: &AtomicUsize, fault: &dyn Fn(&str, usize) -> Fault) -> std::io::Result<()> {
    let mut request = Vec::new();
    let mut octets = [0; 65_536];
    let end = loop {
        let read = client.read(&mut octets)?;
        if read == 0 {
            return Ok(());
        }
        request.extend_from_slice(&octets[..read]);
        if let Some(end) = request.windows(4).position(|four| four == b"\r\n\r\n") {
            break end + 4;
        }
    };
    let head = String::from_utf8_lossy(&request[..end]).to_lowercase();
    let length = head.lines().find_map(|line| line.strip_prefix("content-length:")?.trim().parse().ok()).unwrap_or(0);
    while request.len() < end + length {
        let read = client.read(&mut octets)?;
        request.extend_from_slice(&octets[..read]);
    }
    let method = head.split(' ').next().unwrap_or_default().to_owned();
    let fault = fault(&method, count.fetch_add(1, Ordering::SeqCst));
    if let Fault::Refused(number) = fault {
        let answer = format!("HTTP/1.1 {number} No\r\ncontent-length: 0\r\nconnection: close\r\n\r\n");
        return client.write_all(answer.as_bytes());
    }
    if fault == Fault::Slow {
        std::thread::sleep(Duration::from_millis(700));
    }
    // Each request has a connection, so that its answer ends where that does.
    let head = String::from_utf8_lossy(&request[..end - 2]).into_owned();
    let kept = head.lines().filter(|line| !line.to_lowercase().starts_with("connection:"));
    let head: String = kept.map(|line| format!("{line}\r\n")).collect();
    let mut engine = TcpStream::connect(ENGINE)?;
    engine.write_all(&[head.as_bytes(), b"Connection: close\r\n\r\n", &request[end..]].concat())?;
    let mut answer = Vec::new();
    engine.read_to_end(&mut answer)?;
    if fault == Fault::Cut {
        return client.shutdown(Shutdown::Both);
    }
    client.write_all(&answer)?;
    client.shutdown(Shutdown::Both)
}

#[test]
#[ignore = "needs an S3 engine: .ci/bucket start DIR 7481"]
fn a_bucket_keeps_releases_as_a_directory_does() {
    let store = store("whole", ENGINE);
    assert_eq!(store.latest().unwrap(), None);
    let first = publish(&store, 1, None).unwrap();
    let second = publish(&store, 2, Some(&first)).unwrap();
    let third = store.revert(&first, &second, Entry { reverts_to: Some(1), ..Entry::default() }).unwrap();
    assert_eq!(store.numbers().unwrap(), [1, 2, 3]);
    assert_eq!(store.latest().unwrap(), Some(third.clone()));
    assert_eq!(store.document(&third).unwrap(), store.document(&first).unwrap());
    assert_eq!(store.sources(&second).unwrap()[0].text.matches("10.64.9.2\"").count(), 1);
    let report = store.verify(&[]).unwrap();
    assert_eq!((report.releases, &report.flaws[..], &report.orphans[..]), (3, &[][..], &[][..]));
    assert_eq!(store.prune(&report, Duration::ZERO).unwrap(), 0);
}

#[test]
#[ignore = "needs an S3 engine: .ci/bucket start DIR 7481"]
fn of_sixteen_publishers_each_number_goes_to_one() {
    let publisher = |router: u8| {
        std::thread::spawn(move || {
            let store = store("race", ENGINE);
            publish(&store, router, None).map(|release| release.number()).map_err(|error| error.why)
        })
    };
    let publishers: Vec<_> = (1..=16).map(publisher).collect();
    let ended: Vec<_> = publishers.into_iter().map(|publisher| publisher.join().unwrap()).collect();
    assert_eq!(ended.iter().filter(|ended| **ended == Ok(1)).count(), 1, "{ended:?}");
    assert!(ended.iter().all(|ended| ended.as_ref().err().is_none_or(|why| why.contains("meanwhile"))), "{ended:?}");
    let store = store("race", ENGINE);
    assert_eq!((store.numbers().unwrap(), store.verify(&[]).unwrap().flaws), (vec![1], vec![]));
}

/// An engine that fails now and then, is slow, or whose answers are lost: what is published is there once, and nothing is half done.
#[test]
#[ignore = "needs an S3 engine: .ci/bucket start DIR 7481"]
fn faults_on_the_way_lose_nothing() {
    let cases: [(&str, WhatHappens); 4] = [
        ("errors", |_, number| if number % 3 == 1 { Fault::Refused(500) } else { Fault::None }),
        ("busy", |_, number| if number % 4 < 2 { Fault::Refused(503) } else { Fault::None }),
        ("slow", |_, number| if number % 5 == 0 { Fault::Slow } else { Fault::None }),
        // The write is done, and nobody hears of it: the second try finds the first.
        ("cut", |method, number| if method == "put" && number % 2 == 0 { Fault::Cut } else { Fault::None }),
    ];
    for (name, fault) in cases {
        let proxy = Proxy::new(fault);
        let through = store(name, &proxy.endpoint);
        let first = publish(&through, 1, None).unwrap_or_else(|why| panic!("{name}: {why}"));
        publish(&through, 2, Some(&first)).unwrap_or_else(|why| panic!("{name}: {why}"));
        assert!(proxy.seen.load(Ordering::SeqCst) > 10, "{name}");
        let store = store(name, ENGINE);
        let report = store.verify(&[]).unwrap();
        assert_eq!(
            (store.numbers().unwrap(), &report.flaws[..], report.orphans.len()),
            (vec![1, 2], &[][..], 0),
            "{name}"
        );
    }
}

/// An engine that is gone: a clear reason, and nothing published.
#[test]
#[ignore = "needs an S3 engine: .ci/bucket start DIR 7481"]
fn an_engine_that_refuses_everything_is_said_to() {
    let proxy = Proxy::new(|_, _| Fault::Refused(403));
    let why = publish(&store("gone", &proxy.endpoint), 1, None).unwrap_err();
    assert!(why.path.starts_with("s3://oplex") && why.why.contains("the engine refuses this access key"), "{why}");
    let elsewhere = Store::open_with("s3://nowhere/x", options(ENGINE)).unwrap();
    assert!(elsewhere.numbers().unwrap_err().why.contains("there is no such bucket"));
    let proxy = Proxy::new(|_, _| Fault::Refused(500));
    let why = store("gone", &proxy.endpoint).numbers().unwrap_err().why;
    assert!(why.contains("500") && why.len() < 200, "{why}");
    assert_eq!(store("gone", ENGINE).numbers().unwrap(), [0; 0]);
}
