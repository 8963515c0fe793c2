//! WAV files: what goes out comes back, and bad ones are refused with a clear sentence.
#![allow(missing_docs, clippy::unwrap_used, reason = "a test stops on the first surprise")]

use clear_bend_core::Buffer;
use clear_bend_media::{read_wav, write_wav};
use proptest::prelude::*;

fn sample_file() -> Vec<u8> {
    let channel: Vec<f32> = (0..1000u16).map(|n| f32::from(n) / 1000.0).collect();
    write_wav(&Buffer::new(48_000, vec![channel.clone(), channel]).unwrap()).unwrap()
}

proptest! {
    #[test]
    fn float_files_round_trip_bit_for_bit(
        samples in prop::collection::vec(prop::num::f32::NORMAL | prop::num::f32::ZERO, 1..300),
        stereo: bool,
        rate in 8_000u32..=192_000,
    ) {
        let buffer = Buffer::from_mono(rate, samples, 1 + usize::from(stereo)).unwrap();
        prop_assert_eq!(read_wav(&write_wav(&buffer).unwrap()).unwrap(), buffer);
    }

    #[test]
    fn no_bytes_make_the_reader_fail_otherwise_than_by_refusing(
        cut in 0usize..8100, at in 0usize..60, byte: u8,
    ) {
        let mut bytes = sample_file();
        bytes[at] = byte;
        bytes.truncate(cut);
        let _ = read_wav(&bytes);
    }
}

#[test]
fn whole_number_samples_are_read_against_full_scale() {
    let spec = |bits| hound::WavSpec {
        channels: 1,
        sample_rate: 44_100,
        bits_per_sample: bits,
        sample_format: hound::SampleFormat::Int,
    };
    for bits in [16u16, 24, 32] {
        let mut bytes = std::io::Cursor::new(Vec::new());
        let mut writer = hound::WavWriter::new(&mut bytes, spec(bits)).unwrap();
        writer.write_sample(-(1i32 << (bits - 2))).unwrap();
        writer.finalize().unwrap();
        assert_eq!(read_wav(&bytes.into_inner()).unwrap().channels()[0], [-0.5]);
    }
}
