//! The API through a running server: answers, refusals, and a server that is killed.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    reason = "a test stops on the first surprise"
)]

use clear_bend_bench::BenchDocument;
use common::Serve;
use serde_json::{Value, json};

mod common;

fn bench() -> Value {
    serde_json::to_value(BenchDocument::fresh()).unwrap()
}

fn body(name: &str, document: &Value) -> String {
    json!({"name": name, "document": document}).to_string()
}

#[test]
fn answers_and_refusals() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let mut answers = Vec::new();
    let mut ask = |method: &str, path: &str, content: Option<String>| {
        let (status, mut answer) = serve.ask(method, path, content.as_deref());
        if let Some(list) = answer.as_array_mut() {
            list.iter_mut().for_each(|bench| bench["updated_at"] = json!("[time]"));
        } else if answer.get("updated_at").is_some() {
            answer["updated_at"] = json!("[time]");
            answer["document"] = json!(format!("[{} fields]", answer["document"].as_object().unwrap().len()));
        }
        answers.push(format!("{method} {path}\n{status} {answer}"));
        answer
    };
    let with = |pointer: &str, value: Value| {
        let mut document = bench();
        *document.pointer_mut(pointer).unwrap() = value;
        Some(body("Mine", &document))
    };
    ask("GET", "/api/health", None);
    ask("GET", "/api/benches", None);
    ask("GET", "/api/benches?named=LOW%20water", None);
    ask("GET", "/api/benches?after=x", None);
    ask("GET", "/api/benches?named=a%00b", None);
    let id = ask("POST", "/api/benches", Some(body("Mine", &bench())))["id"].as_i64().unwrap();
    let one = format!("/api/benches/{id}");
    ask("GET", &one, None);
    ask("PUT", &one, Some(json!({"name": "Renamed", "revision": 1}).to_string()));
    ask("PUT", &one, Some(json!({"name": "Stale", "revision": 1, "document": bench()}).to_string()));
    ask("DELETE", &format!("{one}?revision=1"), None);
    ask("DELETE", &format!("{one}?revision=2"), None);
    ask("GET", &one, None);
    ask("POST", &format!("{one}/restore"), None);

    ask(
        "POST",
        "/api/benches",
        with("/stems/0/snapshots/0/stages/0", json!({"effect": "compressor", "params": {"ratio": 0.5}})),
    );
    ask(
        "POST",
        "/api/benches",
        with("/stems/0/snapshots/0/stages/0", json!({"effect": "gate", "params": {"release_ms": -5}})),
    );
    ask(
        "POST",
        "/api/benches",
        with("/stems/0/snapshots/0/stages/0", json!({"effect": "gain", "params": {"warmth": 1}})),
    );
    ask(
        "POST",
        "/api/benches",
        with("/listening", json!({"hear": "after", "level_match": "off", "all_stems": false, "loud": 1})),
    );
    ask("POST", "/api/benches", with("/format", json!("something-else")));
    ask("POST", "/api/benches", Some(body(" ", &bench())));
    ask("POST", "/api/benches", Some("{\"name\": NaN}".to_owned()));
    ask("POST", "/api/benches", Some(body("Big", &json!("x".repeat(10_000_000)))));
    // Own ear maps are kept like benches, and are none.
    let map = |name: &str, to_hz: f64, region: &str| {
        let regions = json!([{"from_hz": 200, "to_hz": to_hz, "name": region}]);
        json!({"name": name, "document": {"format": "clear-bend-ear-map", "version": 1, "regions": regions}})
    };
    let revised = |mut map: Value, revision: i32| {
        map["revision"] = json!(revision);
        Some(map.to_string())
    };
    let own =
        ask("POST", "/api/ear-maps", Some(map("Viol", 500.0, "body").to_string()))["id"].as_i64().unwrap();
    let own = format!("/api/ear-maps/{own}");
    ask("GET", &own.replace("ear-maps", "benches"), None);
    ask("PUT", &own, revised(map("Viol", 600.0, "body"), 1));
    ask("PUT", &own, revised(map("Viol", 700.0, "body"), 1));
    ask("POST", "/api/ear-maps", Some(map("Viol", 500.0, " ").to_string()));
    ask("POST", "/api/ear-maps", Some(map("Viol", 210.0, "thin").to_string()));
    ask("DELETE", &format!("{own}?revision=2"), None);
    ask("GET", "/api/ear-maps", None);
    ask("POST", &format!("{own}/restore"), None);
    ask("GET", "/api/ear-maps", None);
    ask("GET", "/api/benches/none", None);
    ask("GET", "/api/benches/999999", None);
    ask("DELETE", &one, None);
    ask("GET", "/api/nothing", None);
    ask("GET", "/nothing", None);
    let (text, ids) = numbered(answers.join("\n"));
    // Nobody finds another one by counting.
    assert!(
        ids.iter().all(|id| ids.iter().all(|other| id == other || id.abs_diff(*other) > 1_000_000)),
        "{ids:?}"
    );
    insta::assert_snapshot!(text);
}

/// A text with addresses made by chance as those that came first, second and so on; and these addresses.
fn numbered(text: String) -> (String, Vec<u64>) {
    let mut ids: Vec<u64> = Vec::new();
    for (at, name) in text.match_indices("\"id\":") {
        let digits: String = text[at + name.len()..].chars().take_while(char::is_ascii_digit).collect();
        let id = digits.parse().unwrap();
        if !ids.contains(&id) {
            ids.push(id);
        }
    }
    let named = |text: String, (k, id): (usize, &u64)| text.replace(&id.to_string(), &format!("[id {k}]"));
    (ids.iter().enumerate().fold(text, named), ids)
}

#[test]
fn tracks_are_brought_listed_played_exported_and_refused() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let sound =
        BenchDocument::fresh().check().unwrap()[0].source.render(48_000, 2).unwrap().slice(0..100_000);
    let wav = clear_bend_media::write_wav(&sound).unwrap();
    let bring = |name: &str, bytes: &[u8]| serve.send("POST", &format!("/api/tracks?name={name}"), bytes);
    let (status, track) = bring("tide%2Fpool%20%E6%BD%AE.wav", &wav);
    assert_eq!((status, &track["name"]), (201, &json!("tide/pool \u{6f6e}.wav")));
    assert_eq!(
        (&track["frames"], &track["channels"], &track["rate_hz"]),
        (&json!(100_000), &json!(2), &json!(48_000))
    );
    // The same content again is the same track.
    let hash = track["hash"].as_str().unwrap().to_owned();
    assert_eq!(bring("other.wav", &wav).1["hash"], hash);
    let list = || serve.ask("GET", "/api/tracks", None).1;
    assert_eq!(list().as_array().unwrap().len(), 2);

    // Its samples come in pieces, channel after channel, as the FLAC of 24 bits holds them.
    let samples = serve.bytes("GET", &format!("/api/tracks/{hash}/samples"), b"");
    assert_eq!((samples.0, samples.1.len()), (200, 4 * 2 * 100_000));
    let at = |i: usize| f32::from_le_bytes(samples.1[4 * i..4 * i + 4].try_into().unwrap());
    for n in (0..65_536).step_by(997) {
        assert!((at(n) - sound.channels()[0][n]).abs() < 1.2e-7, "{n}");
        assert!((at(65_536 + n) - sound.channels()[1][n]).abs() < 1.2e-7, "{n}");
    }

    // Exported: before is the loop of the track, and its difference with the path switched off is silence.
    let mut bench = bench();
    bench["stems"][0]["source"] = json!({"kind": "track", "track": hash});
    bench["region"] = json!({"from_s": 0.5, "to_s": 1.5});
    bench["stems"][0]["snapshots"][0]["stages"][0]["on"] = json!(false);
    let export = |part: &str, format: &str| {
        let wanted = json!({"document": bench, "part": part, "format": format}).to_string();
        let (status, bytes) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
        assert_eq!(status, 200, "{}", String::from_utf8_lossy(&bytes));
        clear_bend_media::read_sound(&bytes).unwrap()
    };
    let before = export("before", "wav32");
    assert_eq!(before.frames(), 48_000);
    assert!(
        before.channels()[0][..40_000]
            .iter()
            .zip(&sound.channels()[0][24_000..])
            .all(|(a, b)| (a - b).abs() < 1.2e-7)
    );
    assert!(export("after", "wav32") == before);
    assert!(export("difference", "flac24").channels().iter().flatten().all(|x| *x == 0.0));

    // Refusals, each with a sentence; nothing is half-stored, and the rest goes on.
    let hours =
        |bytes: &[u8]| bring("x", bytes).1["error"]["message"].as_str().unwrap_or_default().to_owned();
    assert!(hours(b"").starts_with("the file is empty"));
    assert!(hours(b"not a sound at all").contains("it is of no known kind"));
    assert!(hours(&wav[..50_000]).starts_with("the file promises 200000 samples but ends after"));
    let missing = "0".repeat(64);
    assert_eq!(serve.ask("GET", &format!("/api/tracks/{missing}/samples"), None).0, 404);
    assert_eq!(serve.ask("GET", "/api/tracks/..%2F..%2Fetc/samples", None).0, 422);
    bench["stems"][0]["source"]["track"] = json!(missing);
    let wanted = json!({"document": bench, "part": "after", "format": "wav16"}).to_string();
    assert_eq!(serve.ask("POST", "/api/exports", Some(&wanted)).0, 404);
    // A key that cannot be read is no silent key.
    let mut keyed = bench.clone();
    keyed["stems"][0]["source"]["track"] = json!(hash);
    keyed["stems"][0]["snapshots"][0]["stages"][0]["on"] = json!(true);
    keyed["stems"][0]["snapshots"][0]["stages"][0]["sounds"] =
        json!({"key": {"kind": "track", "track": missing}});
    let wanted = json!({"document": keyed, "part": "after", "format": "wav16"}).to_string();
    assert_eq!(serve.ask("POST", "/api/exports", Some(&wanted)).0, 404);
    // Nor is NUL in an address a fault of ours.
    for (method, address) in [
        ("GET", "/api/tracks/%00/samples"),
        ("DELETE", "/api/tracks/%00"),
        ("POST", "/api/tracks/%00/restore"),
    ] {
        let status = serve.ask(method, address, None).0;
        assert!((400..500).contains(&status), "{method} {address}: {status}");
    }
    let wanted = json!({"document": bench, "part": "after", "format": "mp3"}).to_string();
    assert_eq!(
        serve.ask("POST", "/api/exports", Some(&wanted)).1["error"]["message"],
        "format is \u{201c}mp3\u{201d}; accepted: wav16, wav24, wav32, flac16, flac24"
    );
    // An upload that breaks off half-way leaves nothing.
    {
        use std::io::Write;
        let mut stream = std::net::TcpStream::connect(("127.0.0.1", serve.port())).unwrap();
        let head = "POST /api/tracks?name=half HTTP/1.1\r\nHost: localhost\r\nOrigin: http://localhost\r\nContent-Length: 1000000\r\n\r\n";
        stream.write_all(head.as_bytes()).unwrap();
        stream.write_all(&wav[..100_000]).unwrap();
    }
    // One that says it is too large is not even read.
    let head = "POST /api/tracks?name=big HTTP/1.1\r\nHost: localhost\r\nOrigin: http://localhost\r\nContent-Length: 999000000\r\nConnection: close\r\n\r\n";
    let answer = raw(&serve, head);
    assert!(
        answer.starts_with("HTTP/1.1 413") && answer.contains("file is too large; accepted: at most 350 MB"),
        "{answer}"
    );
    assert_eq!(list().as_array().unwrap().len(), 2);
    assert_eq!(serve.ask("DELETE", &format!("/api/tracks/{hash}"), None).0, 204);
    assert_eq!(list().as_array().unwrap().len(), 1);
    assert_eq!(serve.ask("POST", &format!("/api/tracks/{hash}/restore"), None).1["hash"], hash);
}

/// A bench says how it is played, and its files are as long: a round as long as the loop, once with what rings after it.
#[test]
fn exports_hold_a_round_or_the_tail() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let mut bench = bench();
    // A tone of 200 Hz that ends while a bell of 18 dB and Q 30 rings at its frequency.
    bench["stems"][0]["source"] =
        json!({"kind": "sine", "params": {"freq_hz": 200, "level_dbfs": -30, "seconds": 3}});
    bench["stems"][0]["snapshots"][0]["stages"] = json!([{"effect": "equaliser", "params":
        {"kind_1": 6, "freq_1_hz": 200, "gain_1_db": 18, "q_1": 30}}]);
    bench["view"]["spotlight"] = json!(null);
    let export = |play: Option<&str>, part: &str| {
        let mut document = bench.clone();
        match play {
            Some(play) => document["play"] = json!(play),
            None => drop(document.as_object_mut().unwrap().remove("play")),
        }
        let wanted = json!({"document": document, "part": part, "format": "wav32"}).to_string();
        let (status, bytes) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
        assert_eq!(status, 200, "{}", String::from_utf8_lossy(&bytes));
        clear_bend_media::read_sound(&bytes).unwrap()
    };
    let (round, once) = (export(Some("round"), "after"), export(Some("once"), "after"));
    assert_eq!((round.frames(), export(Some("once"), "before").frames()), (144_000, 144_000));
    // What is left falls by 60 dB as exp(-pi f t / (A Q)), A^2 being the gain.
    let a = 10f64.powf(18.0 / 40.0);
    let seconds = 1000f64.ln() * a * 30.0 / (std::f64::consts::PI * 200.0);
    let tail = f64::from(u32::try_from(once.frames() - 144_000).unwrap()) / 48_000.0;
    assert!((tail - seconds).abs() < 0.03 * seconds, "{tail} s, not {seconds} s");
    // A round begins as loud as it ends; from rest, the bell has still to rise. A bench that says nothing goes round.
    let start = |sound: &clear_bend_sound::Buffer| {
        sound.channels()[0][..4800].iter().fold(0.0, |most: f32, x| most.max(x.abs()))
    };
    assert!(start(&round) > 0.24 && start(&once) < 0.15, "{} and {}", start(&round), start(&once));
    assert!(export(None, "after") == round);
    let mut wrong = bench.clone();
    wrong["play"] = json!("twice");
    let wanted = json!({"document": wrong, "part": "after", "format": "wav32"}).to_string();
    let (status, answer) = serve.ask("POST", "/api/exports", Some(&wanted));
    assert_eq!(status, 422);
    assert!(answer["error"]["message"].as_str().unwrap().starts_with("document.play is"), "{answer}");
}

/// One raw request, so that headers can be wrong.
fn raw(serve: &Serve, request: &str) -> String {
    use std::io::{Read, Write};
    let mut stream = std::net::TcpStream::connect(("127.0.0.1", serve.port())).unwrap();
    stream.write_all(request.as_bytes()).unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).unwrap();
    String::from_utf8_lossy(&answer).into_owned()
}

#[test]
fn pages_files_and_headers() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let get = |path: &str, host: &str, more: &str| {
        raw(&serve, &format!("GET {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n{more}\r\n"))
    };
    let page = get("/", "localhost", "");
    assert!(page.starts_with("HTTP/1.1 200"));
    assert!(page.contains("cache-control: no-cache"));
    // The content policy allows no inline script, and only style elements with this answer's nonce.
    let policy = page.lines().find(|l| l.starts_with("content-security-policy:")).unwrap();
    assert!(policy.contains("script-src 'self' 'wasm-unsafe-eval';"));
    let nonce = policy.split("'nonce-").nth(1).unwrap().split('\'').next().unwrap();
    assert!(page.contains(&format!("content=\"{nonce}\"")) && !page.contains("__NONCE__"));
    assert!(!get("/", "localhost", "").contains(nonce));

    let script = page.split("src=\"").nth(1).unwrap().split('"').next().unwrap();
    let file = get(script, "127.0.0.1", "Accept-Encoding: br\r\n");
    assert!(file.contains("immutable") && file.contains("content-encoding: br"), "{}", &file[..600]);
    // It was compressed by the build, once and as well as possible.
    let built = common::root().join("web/dist").join(format!("{}.br", &script[1..]));
    assert!(file.contains(&format!("content-length: {}\r", std::fs::metadata(built).unwrap().len())));
    let plain = get(script, "127.0.0.1", "");
    assert!(plain.contains("immutable") && !plain.contains("content-encoding"), "{}", &plain[..600]);
    for odd in ["/assets/../index.html", "/assets/%2e%2e%2findex.html", "/assets/.hidden", "/assets/none.js"]
    {
        let answer = get(odd, "localhost", "");
        assert!(answer.starts_with("HTTP/1.1 404") && !answer.contains("immutable"), "{odd}: {answer}");
    }
    // A name that somebody else lets point to this machine does not reach it.
    assert!(get("/api/benches", "example.org", "").starts_with("HTTP/1.1 421"));
    assert!(get("/api/benches", "[::1]:80", "").starts_with("HTTP/1.1 200"));
    // Whoever lets a name of theirs point here can also say that it was forwarded: that does not count.
    for forwarded in [
        "X-Forwarded-Host: localhost",
        "Forwarded: host=localhost",
        "X-Forwarded-Host: 127.0.0.1\r\nX-Forwarded-For: 127.0.0.1",
        "Host: localhost",
    ] {
        let answer = get("/api/benches", "evil", &format!("{forwarded}\r\n"));
        assert!(answer.starts_with("HTTP/1.1 4"), "{forwarded}: {answer}");
    }
    // Our own Host is answered whatever was forwarded.
    assert!(get("/api/benches", "localhost", "X-Forwarded-Host: evil\r\n").starts_with("HTTP/1.1 200"));
}

#[test]
fn only_the_own_page_changes_anything() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let host = format!("127.0.0.1:{}", serve.port());
    let send = |method: &str, path: &str, headers: &str, content: &str| {
        raw(
            &serve,
            &format!(
                "{method} {path} HTTP/1.1\r\nHost: {host}\r\nContent-Length: {}\r\nConnection: close\r\n{headers}\r\n{content}",
                content.len()
            ),
        )
    };
    let wav = "RIFF";
    let saved = body("Mine", &bench());
    let own = format!("Origin: http://{host}\r\n");
    // What forms and scripts of other origins can send without asking first, and what they cannot.
    for (method, path, headers, content) in [
        ("POST", "/api/tracks?name=x", "Content-Type: text/plain\r\n", wav),
        ("POST", "/api/tracks?name=x", "Content-Type: multipart/form-data; boundary=b\r\n", "--b--"),
        ("POST", "/api/benches/1/restore", "Content-Type: application/x-www-form-urlencoded\r\n", "a=b"),
        ("POST", "/api/benches", "Content-Type: application/json\r\n", &saved),
        ("POST", "/api/exports", "Content-Type: application/json\r\n", "{}"),
        ("PUT", "/api/benches/1", "Content-Type: application/json\r\n", "{}"),
        ("DELETE", "/api/benches/1?revision=1", "", ""),
    ] {
        for from in [
            "",
            "Origin: null\r\n",
            "Origin: http://evil\r\n",
            "Origin: http://localhost\r\n",
            "Origin: http://127.0.0.1:1\r\n",
            &format!("Origin: https://{host}\r\n"),
            "Sec-Fetch-Site: cross-site\r\n",
            "Sec-Fetch-Site: same-site\r\n",
            "Sec-Fetch-Site: none\r\n",
            &format!("{own}Sec-Fetch-Site: cross-site\r\n"),
            &format!("{own}Origin: http://evil\r\n"),
            "Origin: http://evil\r\nSec-Fetch-Site: same-origin\r\n",
        ] {
            let answer = send(method, path, &format!("{headers}{from}"), content);
            assert!(answer.starts_with("HTTP/1.1 403"), "{method} {path} {from}: {answer}");
            assert!(answer.contains("was not sent by this page"), "{answer}");
        }
        for from in [own.as_str(), "Sec-Fetch-Site: same-origin\r\n"] {
            let answer = send(method, path, &format!("{headers}{from}"), content);
            assert!(!answer.starts_with("HTTP/1.1 403"), "{method} {path} {from}: {answer}");
        }
    }
    // A form that our own page does not send is no JSON.
    let form = send("POST", "/api/benches", &format!("{own}Content-Type: text/plain\r\n"), "name=x");
    assert!(form.starts_with("HTTP/1.1 415"), "{form}");
    // Looking is free to whoever names this machine; other origins cannot read the answer.
    assert!(
        send("GET", "/api/benches", "Origin: http://evil\r\n", "")
            .contains("cross-origin-resource-policy: same-origin")
    );
}

#[test]
fn a_database_that_is_down_is_said_to_be_down_and_a_taken_port_is_left_alone() {
    let data = common::data_folder();
    let postgres = clear_bend_store::OwnPostgres::start(&data.path().join("given")).unwrap();
    // Whoever has the usual port keeps it; without --port the next free one is taken.
    let taken = std::net::TcpListener::bind("127.0.0.1:8080");
    let serve = Serve::with(data.path(), |serve| {
        serve.env("DATABASE_URL", postgres.url());
    });
    assert_ne!(serve.port(), 8080);
    drop(taken);
    assert_eq!(serve.ask("GET", "/api/health", None).0, 200);
    assert!(!data.path().join("postgres").exists());

    let wav =
        clear_bend_media::write_wav(&clear_bend_sound::Buffer::new(48_000, vec![vec![0.1; 1_000]]).unwrap())
            .unwrap();
    drop(postgres);
    let (status, answer) = serve.send("POST", "/api/tracks?name=lost", &wav);
    assert_eq!((status, answer["error"]["code"].as_str()), (503, Some("database-down")));
    let (status, answer) = serve.ask("GET", "/api/health", None);
    assert_eq!((status, answer), (503, json!({"status": "limited", "database": "down"})));
    // The program itself lives.
    assert_eq!(serve.ask("GET", "/api/health/live", None), (200, json!({"status": "ok"})));
    let (status, answer) = serve.ask("POST", "/api/benches", Some(&body("Lost?", &bench())));
    assert_eq!(status, 503);
    assert_eq!(
        answer["error"]["message"],
        "the database does not answer; nothing was changed, try again in a moment"
    );
}

#[test]
fn a_killed_server_loses_nothing_and_a_stopped_one_stops_its_database() {
    let data = common::data_folder();
    let mut serve = Serve::start(data.path(), 0);
    let (status, saved) = serve.ask("POST", "/api/benches", Some(&body("Kept", &bench())));
    assert_eq!(status, 201);
    let one = format!("/api/benches/{}", saved["id"]);

    // Killed without warning, its PostgreSQL left running: the next one takes over.
    assert!(!serve.signal("-KILL"));
    let mut serve = Serve::start(data.path(), 0);
    assert_eq!(serve.ask("GET", &one, None).1["name"], "Kept");

    // Its database killed under it: a clear answer at once, and back again by itself.
    let pid_file = data.path().join("postgres/cluster/postmaster.pid");
    let pid = std::fs::read_to_string(&pid_file).unwrap().lines().next().unwrap().to_owned();
    assert!(std::process::Command::new("kill").args(["-9", &pid]).status().unwrap().success());
    let (status, answer) = serve.ask("GET", &one, None);
    if status != 200 {
        assert_eq!((status, answer["error"]["code"].as_str()), (503, Some("database-down")));
    }
    let back = (0..100).any(|_| {
        std::thread::sleep(std::time::Duration::from_millis(200));
        serve.ask("GET", &one, None).0 == 200
    });
    assert!(back);

    assert!(serve.signal("-TERM"));
    assert!(!pid_file.exists());
    // A port that is taken is said to be taken.
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let output = common::program()
        .args(["serve", "--port", &port, "--web"])
        .arg(common::root().join("web/dist"))
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(2));
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(said.contains(&format!("--port {port}")) && said.contains("accepted: a free port"), "{said}");
}

/// Everything that is saved goes into one file while the server runs, and comes back from it into a new folder; nothing is written over.
#[test]
fn a_backup_brings_everything_back_and_writes_over_nothing() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let saved = serve.ask("POST", "/api/benches", Some(&body("Kept", &bench()))).1;
    let wav =
        clear_bend_media::write_wav(&clear_bend_sound::Buffer::new(48_000, vec![vec![0.25; 5_000]]).unwrap())
            .unwrap();
    let track = serve.send("POST", "/api/tracks?name=kept.wav", &wav).1;
    let sound = format!("/api/tracks/{}/samples", track["hash"].as_str().unwrap());
    let one = format!("/api/benches/{}", saved["id"]);
    let was = (
        serve.ask("GET", &one, None),
        serve.bytes("GET", &sound, b""),
        serve.ask("GET", "/api/benches", None),
    );

    let file = data.path().join("all.backup");
    let run = |command: &str, file: &std::path::Path, folder: &str| {
        let output = common::program()
            .arg(command)
            .arg(file)
            .arg("--data")
            .arg(data.path().join(folder))
            .env_remove("DATABASE_URL")
            .output()
            .unwrap();
        (output.status.code(), String::from_utf8(output.stderr).unwrap())
    };
    assert_eq!(run("backup", &file, "postgres"), (Some(0), String::new()));
    let bytes = std::fs::read(&file).unwrap();
    let (code, said) = run("backup", &file, "postgres");
    assert!(code == Some(2) && said.contains("accepted: a file that is not there yet"), "{said}");
    assert_eq!(std::fs::read(&file).unwrap(), bytes);
    let (code, said) = run("restore", &file, "postgres");
    assert!(code == Some(1) && said.contains("there is data in"), "{said}");
    let (code, said) = run("backup", &data.path().join("none.backup"), "nothing");
    assert!(code == Some(2) && said.contains("nothing is saved in"), "{said}");
    assert!(!data.path().join("none.backup").exists());

    // Half a file leaves no folder behind that looks like one.
    let half = data.path().join("half.backup");
    std::fs::write(&half, &bytes[..bytes.len() / 2]).unwrap();
    let (code, said) = run("restore", &half, "again/postgres");
    assert!(code == Some(1) && said.contains("pg_restore failed") && said.lines().count() == 1, "{said}");
    assert_eq!(run("restore", &file, "again/postgres"), (Some(0), String::new()));
    let again = Serve::start(&data.path().join("again"), 0);
    let is = (
        again.ask("GET", &one, None),
        again.bytes("GET", &sound, b""),
        again.ask("GET", "/api/benches", None),
    );
    assert_eq!(was, is);
}

/// Started by root, the program keeps none of root's rights; and it touches no folder of somebody else.
#[test]
fn root_is_given_up_and_folders_of_others_are_left_alone() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let status = std::fs::read_to_string(format!("/proc/{}/status", serve.pid())).unwrap();
    let ids = |name: &str| status.lines().find(|line| line.starts_with(name)).unwrap().to_owned();
    let own: Vec<String> = ids("Uid:").split_whitespace().skip(1).map(str::to_owned).collect();
    assert_eq!(own.len(), 4);
    assert!(own.iter().all(|id| id != "0"), "{own:?}");
    assert!(ids("Gid:").split_whitespace().skip(1).all(|id| id != "0"));
    assert!(ids("Groups:").split_whitespace().skip(1).all(|id| id != "0"));

    let theirs = data.path().join("theirs");
    std::fs::create_dir(&theirs).unwrap();
    std::fs::write(theirs.join("thesis.txt"), "years of work").unwrap();
    let output = common::program()
        .args(["serve", "--port", "0", "--data"])
        .arg(&theirs)
        .arg("--web")
        .arg(common::root().join("web/dist"))
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(1));
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(said.contains("belongs to somebody else; accepted: an empty or new folder"), "{said}");
    assert_eq!(std::fs::read_dir(&theirs).unwrap().count(), 1);
}

/// Killed at any moment of its first set-up, the next start works, at once.
#[test]
fn a_first_set_up_that_is_killed_is_begun_again() {
    for ms in [30, 150, 400, 800, 1500, 2500] {
        let data = common::data_folder();
        let mut killed = common::program()
            .args(["serve", "--port", "0", "--data"])
            .arg(data.path().join("postgres"))
            .arg("--web")
            .arg(common::root().join("web/dist"))
            .stdout(std::process::Stdio::null())
            .spawn()
            .unwrap();
        std::thread::sleep(std::time::Duration::from_millis(ms));
        killed.kill().unwrap();
        killed.wait().unwrap();
        let serve = Serve::start(data.path(), 0);
        assert_eq!(serve.ask("GET", "/api/health", None).0, 200, "killed after {ms} ms");
    }
}

/// A bench of an older version is kept and handed out as it is written today: words, lists, no defaults, in the order of the
/// catalogue. A key that is a stem is exported as that stem's source.
#[test]
fn benches_are_handed_out_as_they_are_written_today() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let path = json!({"format": "clear-bend-path", "version": 2, "stages": [
        {"effect": "equaliser", "on": true, "scope": "stereo", "mix": 1.0,
         "params": {"phase": 1, "freq_2_hz": 315.0, "kind_2": 6, "gain_2_db": -3.0}},
        {"effect": "gate", "params": {"threshold_db": -30.0, "range_db": 80.0},
         "key": {"kind": "sine", "params": {"level_dbfs": -70.0}}}]});
    let old = json!({"format": "clear-bend-bench", "version": 2, "work": 0, "region": null, "reference": null,
        "stems": [{"source": {"kind": "sine", "params": {"seconds": 1.0, "freq_hz": 997.0}}, "snapshots": [path], "snapshot": 0}],
        "listening": {"hear": "after", "level_match": "off", "all_stems": false},
        "view": {"picture": "curve", "stage": 0, "spotlight": null}});
    let (status, saved) = serve.ask("POST", "/api/benches", Some(&body("Old", &old)));
    assert_eq!(status, 201, "{saved}");
    let read = serve.ask("GET", &format!("/api/benches/{}", saved["id"]), None).1;
    for document in [&saved["document"], &read["document"]] {
        assert_eq!(document["version"], 3);
        let stem = &document["stems"][0];
        assert_eq!(stem["source"].to_string(), r#"{"kind":"sine","params":{"seconds":1.0}}"#);
        assert_eq!(
            stem["snapshots"][0]["stages"].to_string(),
            concat!(
                r#"[{"effect":"equaliser","params":{"phase":"linear","bands":[{"kind":"none"},"#,
                r#"{"kind":"bell","freq_hz":315.0,"gain_db":-3.0}]}},"#,
                r#"{"effect":"gate","params":{"threshold_db":-30.0,"range_db":80.0},"#,
                r#""sounds":{"key":{"kind":"sine","params":{"level_dbfs":-70.0}}}}]"#
            )
        );
    }
    // The key keeps the gate shut; a stem that is loud opens it.
    let peak = |document: &Value| {
        let wanted = json!({"document": document, "part": "after", "format": "wav32"}).to_string();
        let (status, bytes) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
        assert_eq!(status, 200, "{}", String::from_utf8_lossy(&bytes));
        let samples = clear_bend_media::read_sound(&bytes).unwrap();
        samples.channels()[0][24_000..].iter().fold(0.0f32, |most, x| most.max(x.abs()))
    };
    let mut bench = read["document"].clone();
    bench["stems"][0]["snapshots"][0]["stages"].as_array_mut().unwrap().remove(0);
    assert!(peak(&bench) < 2e-4, "{}", peak(&bench));
    let loud =
        json!({"source": {"kind": "sine", "params": {"level_dbfs": -6.0}}, "snapshots": [{"stages": []}]});
    bench["stems"].as_array_mut().unwrap().push(loud);
    bench["stems"][0]["snapshots"][0]["stages"][0]["sounds"]["key"] = json!({"kind": "stem", "stem": 1});
    assert!((peak(&bench) - 0.1).abs() < 1e-3, "{}", peak(&bench));
}

/// What comes back from a shared path is in the file of the sum, and the file of the shared path alone holds what it made of what was
/// sent.
#[test]
fn shared_paths_are_handed_out_alone_and_in_the_sum() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let stem = |level_db: f64, sends: Value| {
        json!({"source": {"kind": "sine", "params": {"seconds": 1.0, "level_dbfs": -20.0}}, "snapshots": [{"stages": []}],
            "strip": {"level_db": level_db}, "sends": sends})
    };
    let gain = json!([{"effect": "gain", "params": {"gain_db": -6.0}}]);
    let mut bench = json!({"format": "clear-bend-bench", "version": 3,
        "stems": [stem(-3.0, json!([{"to": 2, "level_db": -1.0}])), stem(-9.0, json!([{"to": 2, "level_db": -2.0, "before_strip": true}])),
            {"source": {"kind": "sent"}, "snapshots": [{"stages": gain}], "strip": {"level_db": -4.0}}],
        "view": {"spotlight": null}});
    let peak = |document: &Value, part: &str| {
        let wanted = json!({"document": document, "part": part, "format": "wav32"}).to_string();
        let (status, bytes) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
        assert_eq!(status, 200, "{}", String::from_utf8_lossy(&bytes));
        let samples = clear_bend_media::read_sound(&bytes).unwrap();
        assert_eq!(samples.frames(), 48_000);
        f64::from(samples.channels()[1].iter().fold(0.0f32, |most, x| most.max(x.abs())))
    };
    let db = |db: f64| 10f64.powf(db / 20.0);
    let sent = 0.1 * (db(-4.0) + db(-2.0));
    let sum = 0.1 * (db(-3.0) + db(-9.0)) + sent * db(-10.0);
    for work in 0..3 {
        bench["work"] = json!(work);
        assert!((peak(&bench, "sum") - sum).abs() < 1e-5, "{work}");
    }
    assert!((peak(&bench, "before") - sent).abs() < 1e-5);
    assert!((peak(&bench, "after") - sent * db(-6.0)).abs() < 1e-5);
    bench["stems"][2]["sends"] = json!([{"to": 2}]);
    let wanted = json!({"document": bench, "part": "sum", "format": "wav32"}).to_string();
    let (status, answer) = serve.ask("POST", "/api/exports", Some(&wanted));
    assert_eq!(status, 422);
    assert!(answer["error"]["message"].as_str().unwrap().contains("no sound goes in a circle"), "{answer}");
}
