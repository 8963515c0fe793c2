//! Files of every accepted kind, made by ordinary tools, and files that are refused.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::cast_precision_loss,
    reason = "a test stops on the first surprise"
)]

use std::io::Seek;
use std::path::Path;
use std::process::Command;

use clear_bend_measures::Levels;
use clear_bend_media::{
    Bits, Format, Imported, import, read_response, read_sound, unpack, write_flac, write_wav_whole,
};
use clear_bend_sound::Buffer;
use hound::{SampleFormat, WavSpec, WavWriter};
use proptest::prelude::*;

/// A stereo passage on the grid of so many bits.
fn on_grid(bits: i32, frames: usize) -> Buffer {
    let scale = 2f64.powi(bits - 1);
    let channel = |c: usize| {
        (0..frames)
            .map(|n| {
                let x = (n as f64 * 0.031 * (c + 1) as f64).sin() * (0.2 + 0.7 * n as f64 / frames as f64);
                #[allow(clippy::cast_possible_truncation)]
                let x = ((x * scale).round() / scale) as f32;
                x
            })
            .collect()
    };
    Buffer::new(48_000, vec![channel(0), channel(1)]).unwrap()
}

/// What was imported, as it is handed out.
fn unpacked(imported: Imported) -> Buffer {
    let mut flac = imported.flac;
    flac.rewind().unwrap();
    assert_eq!(flac.metadata().unwrap().len(), imported.flac_bytes);
    let sound = unpack(flac, imported.halvings).unwrap();
    assert_eq!((sound.channels().len(), sound.frames()), (imported.channels, imported.frames));
    sound
}

/// A passage at the rate of the benches.
fn at_bench_rate(sound: &Buffer) -> Buffer {
    unpacked(import(&Format::Wav32.write(sound).unwrap()).unwrap())
}

#[test]
fn wav_and_flac_of_16_and_24_bits_round_trip_bit_for_bit() {
    for (bits, count) in [(Bits::Sixteen, 16), (Bits::TwentyFour, 24)] {
        // Also lengths that are no whole number of blocks, and very short ones.
        for frames in [1, 10, 4_096, 50_001] {
            let sound = on_grid(count, frames);
            assert!(
                read_sound(&write_wav_whole(&sound, bits).unwrap()).unwrap() == sound,
                "WAV {count} {frames}"
            );
            assert!(
                read_sound(&write_flac(&sound, bits).unwrap()).unwrap() == sound,
                "FLAC {count} {frames}"
            );
        }
    }
    // The four channels of a true stereo response, which no passage has.
    let two = [on_grid(24, 50_001), on_grid(16, 50_001)];
    let four = Buffer::new(48_000, two.iter().flat_map(Buffer::channels).cloned().collect()).unwrap();
    for bytes in
        [write_wav_whole(&four, Bits::TwentyFour).unwrap(), write_flac(&four, Bits::TwentyFour).unwrap()]
    {
        assert!(read_response(&bytes).unwrap() == four);
        assert_eq!(
            read_sound(&bytes).unwrap_err().to_string(),
            "channels is 4; accepted: 1 (mono) or 2 (stereo)"
        );
        let kept = import(&bytes).unwrap();
        assert_eq!(kept.channels, 4);
        // As loud as what both of its inputs together give.
        let played = Levels::of(&four.clone().into_stereo());
        assert!((kept.loudness_lufs - played.loudness_lufs).abs() < 1e-6, "{}", kept.loudness_lufs);
        assert!(unpacked(kept) == four);
    }
    // Kept tracks are unpacked bit for bit, also over full scale.
    let mut hot = on_grid(24, 30_000);
    hot.apply_gain_db(20.0 * 4f64.log10());
    let kept = import(&Format::Wav32.write(&hot).unwrap()).unwrap();
    assert_eq!(kept.halvings, 2);
    assert!(unpacked(kept) == hot);
    // Also what is at full scale exactly, which whole numbers do not reach.
    let full = Buffer::new(48_000, vec![vec![1.0, -1.0, 0.25], vec![-1.0, 0.5, 1.0]]).unwrap();
    assert!(unpacked(import(&Format::Wav32.write(&full).unwrap()).unwrap()) == full);
}

#[test]
fn what_does_not_fit_is_dithered_or_refused() {
    // A sine of -110 dBFS is under one step of 16 bits: dithered, its tone is still there. (Lipshitz et al., JAES 40(5).)
    let quiet = (0..96_000).map(|n| 3.2e-6 * (n as f32 * 0.1).sin()).collect::<Vec<_>>();
    let sound = Buffer::new(48_000, vec![quiet]).unwrap();
    let read = read_sound(&write_wav_whole(&sound, Bits::Sixteen).unwrap()).unwrap();
    let along: f64 =
        read.channels()[0].iter().enumerate().map(|(n, x)| f64::from(*x) * (n as f64 * 0.1).sin()).sum();
    let amplitude = 2.0 * along / 96_000.0;
    assert!((amplitude / 3.2e-6 - 1.0).abs() < 0.15, "{amplitude:e}");
    let mut hot = on_grid(16, 100);
    hot.apply_gain_db(6.0);
    let said = write_flac(&hot, Bits::TwentyFour).unwrap_err().to_string();
    assert!(said.starts_with("peak is +") && said.contains("32-bit float"), "{said}");
}

fn tool(folder: &Path, command: &str) {
    let mut words = command.split_whitespace();
    let done = Command::new(words.next().unwrap()).args(words).current_dir(folder).output().unwrap();
    assert!(done.status.success(), "{command}: {}", String::from_utf8_lossy(&done.stderr));
}

/// The largest distance of a decoded file from its original, after the offset where they agree best, dB under it.
fn distance_db(original: &Buffer, read: &Buffer) -> (i64, f64) {
    let (a, b) = (&original.channels()[0], &read.channels()[0]);
    let frames = i64::try_from(a.len()).unwrap();
    let at =
        |x: &[f32], i: i64| usize::try_from(i).ok().and_then(|i| x.get(i)).map_or(0.0, |x| f64::from(*x));
    let error =
        |offset: i64| (4_000..frames - 4_000).map(|i| (at(a, i) - at(b, i + offset)).powi(2)).sum::<f64>();
    let best = (-60..=60).min_by(|x, y| error(*x).total_cmp(&error(*y))).unwrap();
    let power: f64 = (4_000..frames - 4_000).map(|i| at(a, i).powi(2)).sum();
    (best, 10.0 * (error(best) / power).log10())
}

#[test]
fn files_of_ordinary_tools_are_read() {
    let folder = tempfile::tempdir().unwrap();
    let original = on_grid(16, 60_000);
    std::fs::write(folder.path().join("in.wav"), write_wav_whole(&original, Bits::Sixteen).unwrap()).unwrap();
    let read = |name: &str| read_sound(&std::fs::read(folder.path().join(name)).unwrap()).unwrap();
    // Lossless: bit for bit.
    for (command, out) in [
        ("sox in.wav out.aiff", "out.aiff"),
        ("sox in.wav -b 24 out24.aiff", "out24.aiff"),
        ("sox in.wav -b 24 out24.wav", "out24.wav"),
        ("ffmpeg -v error -i in.wav -c:a flac out.flac", "out.flac"),
    ] {
        tool(folder.path(), command);
        assert!(read(out) == original, "{out}");
    }
    // Lossy: close by, and in its place.
    for (command, out, under_db) in [
        ("ffmpeg -v error -i in.wav -c:a libmp3lame -b:a 320k out.mp3", "out.mp3", -25.0),
        ("ffmpeg -v error -i in.wav -c:a libvorbis -q:a 8 out.ogg", "out.ogg", -25.0),
    ] {
        tool(folder.path(), command);
        let read = read(out);
        assert_eq!((read.rate_hz(), read.channels().len()), (48_000, 2), "{out}");
        let (offset, distance) = distance_db(&original, &read);
        println!(
            "{out}: {} of {} frames, offset {offset}, error {distance:.1} dB",
            read.frames(),
            original.frames()
        );
        assert!(read.frames().abs_diff(original.frames()) <= 1_152, "{out}: {} frames", read.frames());
        assert!(offset == 0 && distance < under_db, "{out}: offset {offset}, error {distance:.1} dB");
    }
}

#[test]
fn another_rate_is_the_same_sound() {
    // A 997 Hz tone at -10 dBFS keeps its level and frequency; its spectrum stays clean.
    let tone = |rate: u32, frames: usize| {
        let x =
            |n: usize| 10f64.powf(-0.5) * (std::f64::consts::TAU * 997.0 * n as f64 / f64::from(rate)).sin();
        #[allow(clippy::cast_possible_truncation)]
        Buffer::new(rate, vec![(0..frames).map(|n| x(n) as f32).collect()]).unwrap()
    };
    for rate in [44_100u32, 96_000, 22_050] {
        let there = at_bench_rate(&tone(rate, rate as usize * 2));
        assert_eq!((there.rate_hz(), there.frames()), (48_000, 96_000), "{rate}");
        let expected = tone(48_000, 96_000);
        let middle = 10_000..86_000;
        let largest = there.channels()[0][middle.clone()]
            .iter()
            .zip(&expected.channels()[0][middle])
            .fold(0.0f32, |m, (a, b)| m.max((a - b).abs()));
        assert!(20.0 * largest.log10() < -90.0, "{rate}: {:.1} dB", 20.0 * largest.log10());
    }
    assert!((Levels::of(&at_bench_rate(&tone(8_000, 16_000))).peak_dbfs + 10.0).abs() < 0.2);
}

#[test]
fn what_is_no_sound_is_refused_with_a_sentence() {
    let flac = write_flac(&on_grid(16, 30_000), Bits::Sixteen).unwrap();
    let wav = write_wav_whole(&on_grid(16, 1_000), Bits::Sixteen).unwrap();
    let with = |channels: u16, sample_rate: u32, frames: u32| {
        let mut file = std::io::Cursor::new(Vec::new());
        let spec = WavSpec { channels, sample_rate, bits_per_sample: 8, sample_format: SampleFormat::Int };
        let mut writer = WavWriter::new(&mut file, spec).unwrap();
        (0..u32::from(channels) * frames).for_each(|n| writer.write_sample((n % 100) as i8).unwrap());
        writer.finalize().unwrap();
        file.into_inner()
    };
    let refused = |bytes: &[u8]| read_sound(bytes).unwrap_err().to_string();
    insta::assert_snapshot!(
        [
            ("empty", refused(b"")),
            ("text", refused(b"This is not a sound, but a letter about one.")),
            ("a picture", refused(b"\x89PNG\r\n\x1a\n0000")),
            ("WAV cut off", refused(&wav[..1_000])),
            ("WAV header only", refused(&wav[..20])),
            ("FLAC cut off", refused(&flac[..flac.len() / 2])),
            ("32 channels", refused(&with(32, 48_000, 100))),
            ("3 Hz", refused(&with(1, 3, 100))),
            ("400 kHz", refused(&with(2, 400_000, 100))),
            ("an hour", refused(&with(1, 8_000, 3_600 * 8_000))),
            ("no samples", refused(&with(1, 48_000, 0))),
        ]
        .map(|(name, said)| format!("{name}: {said}"))
        .join("\n")
    );
}

/// A tone of ours that `cargo xtask fuzz` has damaged so that the reader of Ogg panics: refused like any other damaged file.
#[test]
fn a_file_at_which_its_reader_panics_is_refused() {
    let said = read_sound(include_bytes!("data/damaged.ogg")).unwrap_err().to_string();
    assert!(
        said.starts_with("the file is damaged in a way that its reader does not know; accepted: WAV"),
        "{said}"
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn damaged_files_are_read_or_refused_but_never_worse(at in 0usize..5_000, byte: u8, cut in 0usize..5_000) {
        let sound = on_grid(16, 2_000);
        for mut file in [write_flac(&sound, Bits::Sixteen).unwrap(), write_wav_whole(&sound, Bits::Sixteen).unwrap()] {
            let at = at % file.len();
            file[at] = byte;
            let _ = read_sound(&file);
            file.truncate(cut.min(file.len()));
            let _ = read_sound(&file);
        }
    }
}
