//! Hours of silence in a small file: left at the longest length that is accepted, not read to the end.
#![allow(missing_docs, clippy::unwrap_used, reason = "a test stops on the first surprise")]

use clear_bend_media::{hash_of_file, import_file, read_sound};

/// A cyclic redundancy check without reflection, from zero, of so many bits (RFC 9639, sections 9.1.8 and 9.3: 0x07 and 0x8005).
fn check(bytes: &[u8], bits: u32, polynomial: u32) -> u32 {
    let top = 1 << (bits - 1);
    bytes.iter().fold(0, |check, byte| {
        (0..8).fold(check ^ (u32::from(*byte) << (bits - 8)), |check, _| {
            let shifted = check << 1;
            (if check & top == 0 { shifted } else { shifted ^ polynomial }) & ((1 << bits) - 1)
        })
    })
}

/// The number of a frame, as FLAC codes it (RFC 9639, section 9.1.5): like UTF-8.
fn coded(number: u32) -> Vec<u8> {
    let low = |shift: u32| u8::try_from((number >> shift) & 0x3f).unwrap() | 0x80;
    let high = |shift: u32, mark: u8| u8::try_from(number >> shift).unwrap() | mark;
    match number {
        0..0x80 => vec![high(0, 0)],
        0x80..0x800 => vec![high(6, 0xc0), low(0)],
        _ => vec![high(12, 0xe0), low(6), low(0)],
    }
}

/// So many frames of 65,535 samples of nothing on two channels at 48 kHz in 16 bits, written by hand after RFC 9639.
fn silence(frames: u32) -> Vec<u8> {
    let mut file = b"fLaC\x80\x00\x00\x22".to_vec();
    // Block sizes, frame sizes that are not known, 48 kHz, two channels, 16 bits, a length and a sum that are not known.
    file.extend([0xff, 0xff, 0xff, 0xff, 0, 0, 0, 0, 0, 0, 0x0b, 0xb8, 0x02, 0xf0, 0, 0, 0, 0]);
    file.extend([0; 16]);
    for number in 0..frames {
        // Fixed sizes; the size stands in 16 bits at the end of the head, the rate and the bits are usual ones.
        let mut frame = vec![0xff, 0xf8, 0x7a, 0x18];
        frame.extend(coded(number));
        frame.extend([0xff, 0xfe]);
        frame.push(u8::try_from(check(&frame, 8, 0x07)).unwrap());
        // Two constants of zero.
        frame.extend([0, 0, 0, 0, 0, 0]);
        let sum = check(&frame, 16, 0x8005);
        frame.extend(u16::try_from(sum).unwrap().to_be_bytes());
        file.extend(frame);
    }
    file
}

#[test]
fn hours_of_silence_are_left_at_ten_minutes() {
    let short = read_sound(&silence(3)).unwrap();
    assert_eq!((short.frames(), short.channels().len()), (3 * 65_535, 2));
    // Twelve hours in half a megabyte.
    let long = silence(31_640);
    assert!(long.len() < 600_000, "{}", long.len());
    let refused = read_sound(&long).unwrap_err().to_string();
    assert!(refused.contains("10 minutes"), "{refused}");
    let mut file = tempfile::tempfile().unwrap();
    std::io::Write::write_all(&mut file, &long).unwrap();
    let mut blocks = 0;
    let counted = std::cell::Cell::new(0);
    let hash = hash_of_file(&file).unwrap();
    let still = || {
        counted.set(counted.get() + 1);
        true
    };
    let refused = import_file(&file, hash, &still).unwrap_err().to_string();
    blocks += counted.get();
    assert!(refused.contains("10 minutes"), "{refused}");
    assert!(blocks < 100_000, "{blocks}");
}
