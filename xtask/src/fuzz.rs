//! Damaged sound files and documents: each has to be read or refused in a sentence, whatever has happened to it.

use std::panic::{self, AssertUnwindSafe};
use std::process::Command;
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use clear_bend_bench::BenchDocument;
use clear_bend_effects as effects;
use clear_bend_media::{Format, read_sound};
use clear_bend_playing::path::Path;
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use serde_json::{Value, json};

/// Files of one kind.
const COUNT: usize = 20_000;
/// A seed lasts so long, s.
const SEED_S: f64 = 0.15;
/// No file may take longer.
const LONGEST: Duration = Duration::from_secs(2);
/// Kinds that an ordinary tool makes, and how.
const MADE: [(&str, &[&str]); 4] = [
    ("ogg", &["-c:a", "libvorbis", "-q:a", "4"]),
    ("mp3", &["-c:a", "libmp3lame", "-b:a", "128k"]),
    ("aiff", &["-c:a", "pcm_s24be"]),
    ("wav", &["-c:a", "pcm_u8"]),
];

/// Hours of silence, of every kind that packs it, and how long one may take to be left: ten minutes are read.
const BOMB_S: u32 = 2 * 3600;
const LEFT_WITHIN: Duration = Duration::from_secs(60);
const BOMBS: [(&str, &[&str]); 4] = [
    ("ogg", &["-c:a", "libvorbis", "-q:a", "0"]),
    ("mp3", &["-c:a", "libmp3lame", "-b:a", "8k", "-ar", "8000", "-ac", "1"]),
    ("flac", &["-c:a", "flac"]),
    ("wav", &["-c:a", "pcm_u8", "-ar", "8000", "-ac", "1"]),
];

/// Runs so many mutated files of every kind through the reader and prints what became of them; then documents, and hours of silence.
pub fn run(count: Option<&str>) -> Result<()> {
    let count = count.map_or(Ok(COUNT), str::parse).context("the number of files of a kind")?;
    // What is caught is counted; its words would drown the table.
    panic::set_hook(Box::new(|_| {}));
    println!("kind | files | read | refused | of those, the reader panicked | longest");
    for (place, (name, seed)) in seeds()?.iter().enumerate() {
        let damaged = |random: &mut SplitMix64| mutated(seed, random);
        tried(name, damaged, count, place, |file| read_sound(file).map(drop).map_err(|e| e.to_string()))?;
    }
    for (place, (name, seed)) in documents()?.iter().enumerate() {
        let value: Value = serde_json::from_str(seed)?;
        // One in four as a text, the others still JSON, of which something else is said.
        let damaged = |random: &mut SplitMix64| {
            if random.bipolar() < -0.5 {
                return mutated(seed.as_bytes(), random);
            }
            let mut other = value.clone();
            for _ in 0..=cast::floor(1.5 * (1.0 + random.bipolar())) {
                replaced(&mut other, random);
            }
            other.to_string().into_bytes()
        };
        tried(name, damaged, 3 * count, 100 + place, |file| {
            let text = std::str::from_utf8(file).map_err(|e| e.to_string())?;
            let read = if name.contains("path") {
                Path::from_json(text).map(drop)
            } else {
                BenchDocument::from_json(text).and_then(|bench| bench.check().map(drop))
            };
            read.map_err(|e| e.to_string())
        })?;
    }
    bombs()
}

/// Hours of silence in small files: left once they are longer than accepted.
fn bombs() -> Result<()> {
    let folder = tempfile::tempdir()?;
    for (kind, how) in BOMBS {
        let to = folder.path().join(format!("silence.{kind}"));
        let mut tool = Command::new("ffmpeg");
        tool.args(["-v", "error", "-y", "-f", "lavfi", "-i", "anullsrc=r=48000:cl=stereo", "-t"]);
        crate::run(tool.arg(BOMB_S.to_string()).args(how).arg(&to))?;
        let file = std::fs::read(&to)?;
        let start = Instant::now();
        let refused = read_sound(&file).err().map(|e| e.to_string()).unwrap_or_default();
        let took = start.elapsed();
        println!(
            "{kind}: {} h of silence in {} kB: {refused} | {:.1} s",
            BOMB_S / 3600,
            file.len() / 1000,
            took.as_secs_f64()
        );
        if !refused.contains("10 minutes") || took > LEFT_WITHIN {
            bail!("hours of silence in a file of the kind {kind} were not left: {refused:?} after {took:?}");
        }
    }
    Ok(())
}

/// Damages one file again and again: each has to be read or refused, in no more time than it may take.
fn tried(
    name: &str,
    damaged: impl Fn(&mut SplitMix64) -> Vec<u8>,
    count: usize,
    place: usize,
    read: impl Fn(&[u8]) -> Result<(), String>,
) -> Result<()> {
    let mut random = SplitMix64::new(2026, place as u64);
    let (mut was_read, mut refused, mut caught, mut escaped, mut longest) = (0, 0, 0, 0, Duration::ZERO);
    for _ in 0..count {
        let file = damaged(&mut random);
        let start = Instant::now();
        match panic::catch_unwind(AssertUnwindSafe(|| read(&file))) {
            Ok(Ok(())) => was_read += 1,
            Ok(Err(error)) => {
                refused += 1;
                // The reader underneath panicked, and that was caught.
                caught += usize::from(error.contains("its reader does not know"));
            }
            Err(_) => escaped += 1,
        }
        longest = longest.max(start.elapsed());
    }
    println!(
        "{name} | {count} | {was_read} | {refused} | {caught} | {:.0} ms",
        1000.0 * longest.as_secs_f64()
    );
    if longest > LONGEST {
        bail!("a file of the kind {name} took {longest:?}");
    }
    if escaped > 0 {
        bail!("{escaped} files of the kind {name} were neither read nor refused");
    }
    Ok(())
}

/// Says something else in one place of a document, anywhere in it.
fn replaced(value: &mut Value, random: &mut SplitMix64) {
    let mut below = |most: usize| {
        cast::floor(0.5 * (1.0 + random.bipolar()) * cast::real(most)).min(most.saturating_sub(1))
    };
    let deeper = below(4) > 0;
    match value {
        Value::Array(list) if deeper && !list.is_empty() => {
            let at = below(list.len());
            return replaced(&mut list[at], random);
        }
        Value::Object(map) if deeper && !map.is_empty() => {
            let at = below(map.len());
            return map.values_mut().nth(at).map_or((), |value| replaced(value, random));
        }
        Value::Array(list) if !list.is_empty() && below(2) == 0 => {
            let at = below(list.len());
            return if below(2) == 0 { drop(list.remove(at)) } else { list.push(list[at].clone()) };
        }
        _ => {}
    }
    *value = match below(12) {
        0 => Value::Null,
        1 => json!(-1),
        2 => json!(1e300),
        3 => json!(0.5),
        4 => json!(u64::MAX),
        5 => json!("inf"),
        6 => json!(""),
        7 => json!("gain"),
        8 => json!([]),
        9 => json!({}),
        10 => json!(true),
        _ => (0..200).fold(json!(0), |deep, _| json!([deep])),
    };
}

/// A bench and a path with something of everything.
fn documents() -> Result<Vec<(String, String)>> {
    let stages: Vec<String> = effects::ALL
        .iter()
        .map(|effect| format!("{{\"effect\": \"{}\", \"params\": {{}}}}", effect.id))
        .collect();
    let path =
        format!("{{\"format\": \"clear-bend-path\", \"version\": 3, \"stages\": [{}]}}", stages.join(", "));
    Ok(vec![
        ("a bench as JSON".to_owned(), serde_json::to_string(&BenchDocument::fresh())?),
        ("a path as JSON".to_owned(), path),
    ])
}

/// A short sound as a file of every kind, made here.
fn seeds() -> Result<Vec<(String, Vec<u8>)>> {
    let rate_hz = 44_100;
    let mut random = SplitMix64::new(1, 0);
    let mut side = |hz: f64| -> Vec<f32> {
        let turn = std::f64::consts::TAU * hz / f64::from(rate_hz);
        let at = |i: usize| 0.5 * (turn * cast::real(i)).sin();
        (0..cast::frames(SEED_S, rate_hz)).map(|i| cast::sample(at(i) + 0.1 * random.bipolar())).collect()
    };
    let sound = Buffer::new(rate_hz, vec![side(440.0), side(660.0)])?;
    let mut seeds = Vec::new();
    for (name, format) in Format::ALL {
        seeds.push((name.to_owned(), format.write(&sound)?));
    }
    let folder = tempfile::tempdir()?;
    let from = folder.path().join("seed.wav");
    std::fs::write(&from, Format::Wav32.write(&sound)?)?;
    for (kind, how) in MADE {
        let to = folder.path().join(format!("made.{kind}"));
        let mut tool = Command::new("ffmpeg");
        tool.args(["-v", "error", "-y", "-i"]).arg(&from).args(how).arg(&to);
        crate::run(&mut tool)?;
        seeds.push((format!("{kind} ({})", how[1]), std::fs::read(&to)?));
    }
    Ok(seeds)
}

/// A file to which up to eight things have happened: bits turned over, bytes changed, lengths made large, parts lost, doubled or
/// swapped, an end that is missing.
fn mutated(seed: &[u8], random: &mut SplitMix64) -> Vec<u8> {
    let mut file = seed.to_vec();
    let mut below = |most: usize| {
        cast::floor(0.5 * (1.0 + random.bipolar()) * cast::real(most)).min(most.saturating_sub(1))
    };
    for _ in 0..=below(8) {
        if file.is_empty() {
            break;
        }
        // Headers are where most can go wrong.
        let reach = if below(2) == 0 { file.len().min(200) } else { file.len() };
        let at = below(reach);
        let end = (at + 1 + below(64)).min(file.len());
        match below(7) {
            0 => file[at] ^= 1 << below(8),
            1 => file[at] = u8::try_from(below(256)).unwrap_or(0),
            2 => file[at..end.min(at + 4)].fill(0xff),
            3 => file[at..end].fill(0),
            4 => drop(file.drain(at..end)),
            5 => {
                let part = file[at..end].to_vec();
                let to = below(file.len());
                file.splice(to..to, part);
            }
            _ => file.truncate(at.max(1)),
        }
    }
    // A page of Ogg whose sum does not fit is passed over; half of the files get theirs again, and come further.
    if file.starts_with(b"OggS") && below(2) == 0 {
        repair_pages(&mut file);
    }
    file
}

/// Gives every page of an Ogg file the check sum that belongs to what it holds (RFC 3533: the polynomial 0x04c11db7, no reflection).
fn repair_pages(file: &mut [u8]) {
    let mut at = 0;
    while let Some(table) = file.get(at + 27..) {
        let segments = usize::from(file[at + 26]);
        let body: usize = table.iter().take(segments).map(|length| usize::from(*length)).sum();
        let end = (at + 27 + segments + body).min(file.len());
        file[at + 22..at + 26].fill(0);
        let sum = file[at..end].iter().fold(0u32, |sum, byte| {
            (0..8).fold(sum ^ (u32::from(*byte) << 24), |sum, _| {
                if sum >> 31 == 1 { (sum << 1) ^ 0x04c1_1db7 } else { sum << 1 }
            })
        });
        file[at + 22..at + 26].copy_from_slice(&sum.to_le_bytes());
        at = end;
    }
}
