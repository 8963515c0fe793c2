//! WAV files: what goes out comes back, and bad ones are refused with a clear sentence.
#![allow(missing_docs, clippy::unwrap_used, reason = "a test stops on the first surprise")]

use clear_bend_media::{read_wav, recipe_of, with_recipe, write_wav};
use clear_bend_sound::Buffer;
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

    /// A recipe goes along with the samples, which stay bit for bit; the length in the head of the file is that of all behind it.
    #[test]
    fn a_recipe_goes_with_the_samples(
        samples in prop::collection::vec(prop::num::f32::NORMAL, 1..50),
        recipe in "[ -~\u{e4}\u{20ac}]{0,200}",
    ) {
        let buffer = Buffer::from_mono(48_000, samples, 1).unwrap();
        let plain = write_wav(&buffer).unwrap();
        prop_assert_eq!(recipe_of(&plain), None);
        let bytes = with_recipe(plain, &recipe);
        prop_assert_eq!(recipe_of(&bytes), Some(recipe.as_str()));
        prop_assert_eq!(read_wav(&bytes).unwrap(), buffer);
        let said = u32::from_le_bytes(bytes[4..8].try_into().unwrap());
        prop_assert_eq!(usize::try_from(said).unwrap() + 8, bytes.len());
        prop_assert_eq!(bytes.len() % 2, 0);
    }

    /// Whatever a file with a recipe becomes on its way, looking for it is no harm.
    #[test]
    fn no_bytes_make_the_reader_of_recipes_fail(
        cut in 0usize..600, at in 0usize..600, byte: u8, bytes in prop::collection::vec(any::<u8>(), 0..300),
    ) {
        let _ = recipe_of(&bytes);
        let mut file = with_recipe(write_wav(&Buffer::from_mono(48_000, vec![0.5; 100], 1).unwrap()).unwrap(), "{}");
        if let Some(x) = file.get_mut(at) {
            *x = byte;
        }
        file.truncate(cut);
        let _ = recipe_of(&file);
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
