//! What the running server withstands: clients that leave or trickle, many files at once, kills, and a database that stands still.
//! The figures of docs/reliability.md come from here.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::cast_precision_loss,
    reason = "a test stops on the first surprise"
)]

mod common;

use std::io::{Read, Write};
use std::net::TcpStream;
use std::process::Command;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use clear_bend_bench::BenchDocument;
use common::Serve;
use serde_json::{Value, json};

/// A request as it goes over the wire.
fn request(serve: &Serve, method: &str, path: &str, length: usize) -> String {
    format!(
        "{method} {path} HTTP/1.1\r\nHost: 127.0.0.1:{}\r\nOrigin: {}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n\r\n",
        serve.port(),
        serve.address
    )
}

fn connect(serve: &Serve) -> TcpStream {
    TcpStream::connect(("127.0.0.1", serve.port())).unwrap()
}

/// The processor time that the server has used so far, s.
fn worked_s(serve: &Serve) -> f64 {
    let stat = std::fs::read_to_string(format!("/proc/{}/stat", serve.pid())).unwrap();
    let fields: Vec<&str> = stat.rsplit(')').next().unwrap().split_whitespace().collect();
    // Ticks of a hundredth of a second, in user mode and in the kernel.
    (fields[11].parse::<f64>().unwrap() + fields[12].parse::<f64>().unwrap()) / 100.0
}

/// The memory that the server holds at present, MB.
fn held_mb(serve: &Serve) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{}/status", serve.pid())).unwrap();
    let line = status.lines().find(|line| line.starts_with("VmRSS:")).unwrap();
    line.split_whitespace().nth(1).unwrap().parse::<u64>().unwrap() / 1000
}

/// A bench whose export takes a while: a minute through as many reverbs as a path holds.
fn long_export() -> String {
    common::export_of_noise("after", json!(vec![json!({"effect": "reverb"}); 16]))
}

#[test]
fn a_client_that_has_left_stops_its_export() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let body = long_export();
    let mut gone = connect(&serve);
    gone.write_all(request(&serve, "POST", "/api/exports", body.len()).as_bytes()).unwrap();
    gone.write_all(body.as_bytes()).unwrap();
    let begun = Instant::now();
    // It is at work.
    let before = worked_s(&serve);
    let works = (0..60).any(|_| {
        std::thread::sleep(Duration::from_millis(500));
        worked_s(&serve) - before > 1.0
    });
    assert!(works, "the export did not begin");
    let at_work_s = begun.elapsed().as_secs_f64();
    drop(gone);
    // One stage is finished, the rest is left.
    let mut last = worked_s(&serve);
    let rested = (0..20).any(|_| {
        std::thread::sleep(Duration::from_secs(1));
        let now = worked_s(&serve);
        let rests = now - last < 0.1;
        last = now;
        rests
    });
    println!(
        "load: an export of 16 reverbs over a minute worked for {last:.1} s, its client left after {at_work_s:.1} s"
    );
    assert!(rested, "it still works {:.0} s after", begun.elapsed().as_secs_f64());
    // Nothing stands in the way of the next one.
    let short = json!({"document": BenchDocument::fresh(), "part": "after", "format": "wav16"}).to_string();
    assert_eq!(serve.bytes("POST", "/api/exports", short.as_bytes()).0, 200);
}

#[test]
fn what_trickles_in_is_cut_off_and_nobody_else_waits() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let mut slow: Vec<TcpStream> = (0..40).map(|_| connect(&serve)).collect();
    for (k, stream) in slow.iter_mut().enumerate() {
        let path = if k % 2 == 0 { "/api/benches" } else { "/api/tracks?name=slow.wav" };
        stream.write_all(request(&serve, "POST", path, 1000).as_bytes()).unwrap();
        stream.write_all(b"{").unwrap();
    }
    let start = Instant::now();
    assert_eq!(serve.ask("GET", "/api/benches", None).0, 200);
    assert!(start.elapsed() < Duration::from_secs(2), "others wait");
    for stream in &mut slow {
        stream.set_read_timeout(Some(Duration::from_secs(40))).unwrap();
        let mut said = [0; 20];
        stream.read_exact(&mut said).unwrap();
        assert_eq!(&said[..12], b"HTTP/1.1 408");
    }
    println!("load: bodies that do not come are cut off after {:.1} s", start.elapsed().as_secs_f64());
}

/// A disk that fills up: what is new is refused in a sentence, what is there stays and is read, and once there is room all goes on.
/// On a small file system of its own, which only root can make; for anybody else this shows nothing.
#[test]
fn a_full_disk_is_said_and_nothing_is_lost() {
    let data = common::data_folder();
    let folder = data.path().join("postgres");
    std::fs::create_dir(&folder).unwrap();
    let mounted =
        Command::new("mount").args(["-t", "tmpfs", "-o", "size=220m", "tmpfs"]).arg(&folder).status();
    if !mounted.is_ok_and(|status| status.success()) {
        println!("load: no file system can be made here; a full disk was not tried");
        return;
    }
    let _mounted = Mounted(&folder);
    let serve = Serve::start(data.path(), 0);
    let new = json!({"name": "Kept", "document": BenchDocument::fresh()}).to_string();
    let (status, kept) = serve.ask("POST", "/api/benches", Some(&new));
    assert_eq!(status, 201);
    let one = format!("/api/benches/{}", kept["id"]);
    let change = json!({"name": "Changed", "revision": 1}).to_string();
    let mut random = clear_bend_signals::SplitMix64::new(1, 0);
    let noise: Vec<f32> =
        (0..2_000_000).map(|_| clear_bend_sound::cast::sample(0.5 * random.bipolar())).collect();
    let sound = clear_bend_sound::Buffer::new(48_000, vec![noise]).unwrap();
    let sound = clear_bend_media::Format::Wav24.write(&sound).unwrap();

    // Hardly any room, and then none at all, to the last byte.
    let filler = folder.join("filler");
    let mut filling = std::fs::File::create(&filler).unwrap();
    let megabyte = vec![7u8; 1_000_000];
    let room =
        || nix::sys::statvfs::statvfs(&folder).map(|at| at.blocks_available() * at.fragment_size()).unwrap();
    while room() > 15_000_000 {
        filling.write_all(&megabyte).unwrap();
    }
    for full in [false, true] {
        while full && filling.write_all(&megabyte).is_ok() {}
        for (method, path, body) in [
            ("POST", "/api/benches", new.as_bytes()),
            ("PUT", one.as_str(), change.as_bytes()),
            ("POST", "/api/tracks?name=large.wav", sound.as_slice()),
        ] {
            let (status, answer) = serve.send(method, path, body);
            assert_eq!((status, answer["error"]["code"].as_str()), (507, Some("disk-full")), "{answer}");
        }
        assert_eq!(serve.ask("GET", &one, None).1["name"], "Kept");
    }
    drop(filling);
    std::fs::remove_file(&filler).unwrap();
    assert_eq!(serve.ask("PUT", &one, Some(&change)).0, 200);
    assert_eq!(serve.send("POST", "/api/tracks?name=large.wav", &sound).0, 201);
    assert_eq!(serve.ask("GET", &one, None).1["name"], "Changed");
}

/// A file system that is taken away at the end, also of a test that fails.
struct Mounted<'a>(&'a std::path::Path);

impl Drop for Mounted<'_> {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg("--lazy").arg(self.0).status();
    }
}

/// The longest that any of the answers took while `work` ran.
fn longest_answer(serve: &Serve, path: &str, work: impl FnOnce()) -> Duration {
    let (done, longest) = (AtomicBool::new(false), AtomicU64::new(0));
    std::thread::scope(|scope| {
        scope.spawn(|| {
            while !done.load(Ordering::Relaxed) {
                let start = Instant::now();
                let _ = serve.ask("GET", path, None);
                longest.fetch_max(u64::try_from(start.elapsed().as_micros()).unwrap(), Ordering::Relaxed);
                std::thread::sleep(Duration::from_millis(50));
            }
        });
        work();
        done.store(true, Ordering::Relaxed);
    });
    Duration::from_micros(longest.into_inner())
}

/// Eight files of ten minutes at once: `cargo test --release --test load -- --ignored --nocapture`.
#[test]
#[ignore = "figures for docs/reliability.md; takes minutes"]
fn figures_of_eight_large_files_at_once() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let files: Vec<Vec<u8>> = (0..8)
        .map(|seed| {
            let file = data.path().join("ten.wav");
            let made = common::program()
                .args(["signal", "white-noise", "--seconds", "600", &format!("--level={}", -20 - seed), "-o"])
                .arg(&file)
                .status();
            assert!(made.unwrap().success());
            std::fs::read(&file).unwrap()
        })
        .collect();
    let (at_rest, most, done) = (held_mb(&serve), AtomicU64::new(0), AtomicBool::new(false));
    let start = Instant::now();
    let longest = longest_answer(&serve, "/api/benches", || {
        std::thread::scope(|scope| {
            let watch = scope.spawn(|| {
                while !done.load(Ordering::Relaxed) {
                    most.fetch_max(held_mb(&serve), Ordering::Relaxed);
                    std::thread::sleep(Duration::from_millis(100));
                }
            });
            let sent: Vec<_> = files
                .iter()
                .map(|file| scope.spawn(|| serve.send("POST", "/api/tracks?name=ten.wav", file)))
                .collect();
            for sent in sent {
                let (status, answer) = sent.join().unwrap();
                assert_eq!(status, 201, "{answer}");
            }
            done.store(true, Ordering::Relaxed);
            watch.join().unwrap();
        });
    });
    println!(
        "load: eight files of 230 MB at once in {:.0} s; memory {at_rest} MB before, at most {} MB; the list of benches after at most {:.2} s",
        start.elapsed().as_secs_f64(),
        most.into_inner(),
        longest.as_secs_f64()
    );
}

/// Kills at any moment while clients save: every save that was acknowledged is there afterwards, and the database stands still for
/// ten seconds without anybody waiting for longer than that.
#[test]
#[ignore = "figures for docs/reliability.md; takes minutes"]
fn figures_of_kills_and_of_a_database_that_stands_still() {
    let data = common::data_folder();
    let mut serve = Serve::start(data.path(), 0);
    let document = serde_json::to_value(BenchDocument::fresh()).unwrap();
    let (mut acknowledged, mut rounds) = (Vec::<(i64, String)>::new(), 0);
    for round in 0..24u64 {
        let address = serve.address.clone();
        let (stop, saved) = (AtomicBool::new(false), std::sync::Mutex::new(Vec::new()));
        std::thread::scope(|scope| {
            for client in 0..16 {
                let (address, document, stop, saved) = (&address, &document, &stop, &saved);
                scope.spawn(move || {
                    for count in 0.. {
                        if stop.load(Ordering::Relaxed) {
                            break;
                        }
                        let name = format!("Round {round}, client {client}, {count}");
                        let body = json!({"name": name, "document": document}).to_string();
                        let answer = ureq::post(format!("{address}/api/benches"))
                            .header("content-type", "application/json")
                            .header("origin", address)
                            .send(body);
                        let Ok(mut answer) = answer else { break };
                        let Ok(kept) = answer.body_mut().read_json::<Value>() else { break };
                        saved.lock().unwrap().push((kept["id"].as_i64().unwrap(), name));
                    }
                });
            }
            std::thread::sleep(Duration::from_millis(200 + 97 * round));
            serve.signal("-KILL");
            stop.store(true, Ordering::Relaxed);
        });
        acknowledged.extend(saved.into_inner().unwrap());
        rounds += 1;
        serve = Serve::start(data.path(), 0);
    }
    let lost = acknowledged
        .iter()
        .filter(|(id, name)| serve.ask("GET", &format!("/api/benches/{id}"), None).1["name"] != *name)
        .count();
    println!("load: {rounds} kills under 16 clients, {} saves acknowledged, {lost} lost", acknowledged.len());
    assert_eq!(lost, 0);

    let file = data.path().join("postgres/cluster/postmaster.pid");
    let pid = std::fs::read_to_string(file).unwrap().lines().next().unwrap().to_owned();
    let all = |signal: &str| {
        let children = Command::new("pgrep").args(["-P", &pid]).output().unwrap().stdout;
        let children = String::from_utf8(children).unwrap();
        let pids: Vec<&str> = children.split_whitespace().chain([pid.as_str()]).collect();
        assert!(Command::new("kill").arg(signal).args(pids).status().unwrap().success());
    };
    for path in ["/api/health", "/api/health/live", "/api/benches"] {
        let longest = longest_answer(&serve, path, || {
            all("-STOP");
            std::thread::sleep(Duration::from_secs(10));
            all("-CONT");
        });
        println!(
            "load: database stopped for 10 s, {path}: answered after at most {:.2} s",
            longest.as_secs_f64()
        );
        assert_eq!(serve.ask("GET", path, None).0, 200);
    }
}
