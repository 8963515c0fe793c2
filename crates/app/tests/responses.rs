//! Kept responses through a running server: what is said of them, files that open again, and what is no response.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    reason = "a test stops on the first surprise"
)]

use clear_bend_bench::BenchDocument;
use clear_bend_media::{read_sound, with_recipe, write_wav};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use common::Serve;
use serde_json::{Value, json};

mod common;

/// Noise that falls by 60 dB in so many seconds, at a rate, from a fixed generator (Numerical Recipes' constants).
fn falling(decay_s: f64, seconds: f64, rate_hz: u32, gain: f64) -> Buffer {
    let mut state = 1u32;
    let frames = cast::frames(seconds, rate_hz);
    let samples = (0..frames).map(|n| {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        let throw = f64::from(state) / f64::from(u32::MAX) * 2.0 - 1.0;
        cast::sample(gain * throw * 10f64.powf(-3.0 * cast::real(n) / f64::from(rate_hz) / decay_s))
    });
    Buffer::new(rate_hz, vec![samples.collect()]).unwrap()
}

/// A WAV file of whole numbers with 16 bits and as many channels, a tenth of a second long.
fn pcm(channels: u16) -> Vec<u8> {
    let (frames, rate_hz) = (4800u32, 48_000u32);
    let data = frames * u32::from(channels) * 2;
    let mut bytes = b"RIFF".to_vec();
    bytes.extend((36 + data).to_le_bytes());
    bytes.extend(b"WAVEfmt ");
    bytes.extend(16u32.to_le_bytes());
    for short in [1, channels] {
        bytes.extend(short.to_le_bytes());
    }
    bytes.extend(rate_hz.to_le_bytes());
    bytes.extend((rate_hz * u32::from(channels) * 2).to_le_bytes());
    for short in [2 * channels, 16] {
        bytes.extend(short.to_le_bytes());
    }
    bytes.extend(b"data");
    bytes.extend(data.to_le_bytes());
    bytes.resize(bytes.len() + usize::try_from(data).unwrap(), 1);
    bytes
}

#[test]
fn responses_are_kept_brought_and_handed_out() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let bring =
        |name: &str, bytes: &[u8]| serve.send("POST", &format!("/api/responses/bring?name={name}"), bytes);
    let list = || serve.ask("GET", "/api/responses", None).1;
    let refused = |(status, answer): (u16, Value)| {
        assert!((400..500).contains(&status), "{answer}");
        answer["error"]["message"].as_str().unwrap().to_owned()
    };

    // Drawn: what is said of it is measured by the server, whatever the page says.
    let drawn = json!({"kind": "response-by-design", "params": {"length_s": 1.2, "seed": 7.0},
        "design": {"curves": {"decay_1000_s": [[0.0, 0.8]]}}});
    let said = json!({"from": "shipped", "seconds": 9.0, "rate_hz": 8000, "channels": 1, "clipped": true});
    let document = json!({"format": "clear-bend-response", "version": 1, "source": drawn, "about": said});
    let (status, kept) =
        serve.ask("POST", "/api/responses", Some(&json!({"name": "Shed", "document": document}).to_string()));
    assert_eq!(status, 201, "{kept}");
    let about = &kept["document"]["about"];
    assert_eq!(
        (&about["from"], &about["seconds"], &about["rate_hz"], &about["channels"], &about["clipped"]),
        (&json!("designed"), &json!(1.2), &json!(48_000), &json!(2), &json!(false))
    );
    assert_eq!(kept["document"]["source"], drawn);
    assert_eq!(&list()[0]["about"], about);

    // Handed out as a file, and brought again: the same design, not a track.
    let asked = json!({"source": drawn}).to_string();
    let (status, wav) = serve.bytes("POST", "/api/responses/file", asked.as_bytes());
    assert_eq!((status, read_sound(&wav).unwrap().frames()), (200, 57_600));
    let (status, again) = bring("Shed%20again.wav", &wav);
    assert_eq!((status, &again["name"]), (201, &json!("Shed again")));
    assert_eq!(again["document"]["source"], drawn);
    let tracks = || serve.ask("GET", "/api/tracks", None).1.as_array().unwrap().len();
    assert_eq!(tracks(), 1, "the shipped voice alone");

    // Brought without a recipe: a track, with the rate at which it came and the decay that it has.
    for (rate_hz, decay_s) in [(8_000, 0.5), (44_100, 1.1), (192_000, 0.3)] {
        let bytes = write_wav(&falling(decay_s, 1.2 * decay_s, rate_hz, 0.5)).unwrap();
        let (status, brought) = bring(&format!("place%20{rate_hz}.wav"), &bytes);
        assert_eq!(status, 201, "{brought}");
        let about = &brought["document"]["about"];
        assert_eq!(
            (&about["from"], &about["rate_hz"], &about["channels"]),
            (&json!("brought"), &json!(rate_hz), &json!(1))
        );
        let found = about["decay_s"].as_f64().unwrap();
        assert!((found / decay_s - 1.0).abs() < 0.05, "{rate_hz} Hz: {found} s for {decay_s} s");
        assert_eq!(brought["document"]["source"]["name"], json!(format!("place {rate_hz}.wav")));
    }
    assert_eq!(tracks(), 4);
    // True stereo in four channels, at another rate than the benches': kept with all four, which fall as they did.
    let side = |decay_s: f64| falling(decay_s, 0.3, 44_100, 0.5).channels()[0].clone();
    let four = Buffer::new(44_100, vec![side(0.2), side(0.3), side(0.25), side(0.15)]).unwrap();
    let (status, brought) = bring("four.wav", &write_wav(&four).unwrap());
    assert_eq!((status, &brought["document"]["about"]["channels"]), (201, &json!(4)), "{brought}");
    let hash = brought["document"]["source"]["track"].as_str().unwrap();
    let samples = serve.bytes("GET", &format!("/api/tracks/{hash}/samples"), b"").1;
    let frames = samples.len() / 16;
    assert_eq!(frames, cast::frames(0.3, 48_000));
    let kept = |channel: usize| -> f64 {
        let bytes = samples[4 * channel * frames..4 * (channel + 1) * frames].chunks(4);
        bytes.map(|x| f64::from(f32::from_le_bytes(x.try_into().unwrap())).powi(2)).sum()
    };
    // Each in its place: as loud beside the first one as it was.
    let energy = |side: &[f32]| side.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>();
    for (channel, sound) in four.channels().iter().enumerate() {
        let (found, brought) = (kept(channel) / kept(0), energy(sound) / energy(&four.channels()[0]));
        assert!((found / brought - 1.0).abs() < 0.03, "channel {channel}: {found} for {brought}");
    }
    assert!((kept(0) / energy(&four.channels()[0]) / (480.0 / 441.0) - 1.0).abs() < 0.1, "{}", kept(0));
    // What was cut off at full scale is said to be.
    let mut loud = falling(0.6, 0.7, 48_000, 3.0);
    loud.channels_mut().iter_mut().flatten().for_each(|x| *x = x.clamp(-1.0, 1.0));
    assert_eq!(bring("loud.wav", &write_wav(&loud).unwrap()).1["document"]["about"]["clipped"], json!(true));
    // One sample is a response without a decay.
    let one = Buffer::new(48_000, vec![vec![0.5]]).unwrap();
    let about = bring("one.wav", &write_wav(&one).unwrap()).1["document"]["about"].clone();
    assert_eq!((&about["decay_s"], &about["clipped"]), (&json!(null), &json!(false)));

    // What is no response is said, and what is kept stays.
    let kept = list().as_array().unwrap().len();
    let silent = Buffer::new(48_000, vec![vec![0.0; 4800]]).unwrap();
    let nan = Buffer::new(48_000, vec![vec![0.5, f32::NAN, 0.25]]).unwrap();
    let broken = with_recipe(write_wav(&one).unwrap(), r#"{"kind": "response-by-desing"}"#);
    let refusals = [
        refused(bring("silent.wav", &write_wav(&silent).unwrap())),
        refused(bring("minute.wav", &write_wav(&falling(20.0, 60.0, 48_000, 0.5)).unwrap())),
        refused(bring("three.wav", &pcm(3))),
        refused(bring("five.wav", &pcm(5))),
        refused(bring("nan.wav", &write_wav(&nan).unwrap())),
        refused(bring("text.wav", b"no sound")),
        refused(bring("broken.wav", &broken)),
        refused(serve.ask(
            "POST",
            "/api/responses",
            Some(&json!({"name": "Stem", "document": {"format": "clear-bend-response", "version": 1, "source": {"kind": "stem", "stem": 0}}}).to_string()),
        )),
        refused(serve.ask("POST", "/api/responses/file", Some(&json!({"source": {"kind": "track", "track": "0".repeat(64)}}).to_string()))),
    ];
    insta::assert_snapshot!(refusals.join("\n"));
    assert_eq!(list().as_array().unwrap().len(), kept);

    // The recording of a sweep: half as loud, and again a tenth as loud 20 ms later. Its response is kept as a track, with what was found.
    let sweep = json!({"kind": "sweep", "params": {"seconds": 2.0, "level_dbfs": -12.0}});
    let (_, wav) =
        serve.bytes("POST", "/api/responses/file", json!({"source": sweep}).to_string().as_bytes());
    let played = read_sound(&wav).unwrap();
    let mut heard = vec![0.0f32; played.frames() + 48_000];
    for (n, x) in played.channels()[0].iter().enumerate() {
        heard[n + 9_600] += 0.5 * x;
        heard[n + 9_600 + 960] += 0.1 * x;
    }
    let address = |name: &str, sweep: &Value| {
        let written = sweep.to_string().bytes().map(|byte| format!("%{byte:02X}")).collect::<String>();
        format!("/api/responses/recorded?name={name}&sweep={written}")
    };
    let recording = write_wav(&Buffer::new(48_000, vec![heard]).unwrap()).unwrap();
    let (status, worked_out) = serve.send("POST", &address("hall.wav", &sweep), &recording);
    assert_eq!((status, &worked_out["name"]), (201, &json!("hall, response")), "{worked_out}");
    let about = &worked_out["document"]["about"];
    assert_eq!(about["from"], "recorded");
    assert!((about["recorded"]["begins_s"].as_f64().unwrap() - 0.2).abs() < 0.001, "{about}");
    let hash = worked_out["document"]["source"]["track"].as_str().unwrap().to_owned();
    let samples = serve.bytes("GET", &format!("/api/tracks/{hash}/samples"), b"").1;
    let response: Vec<f64> =
        samples.chunks(4).map(|x| f64::from(f32::from_le_bytes(x.try_into().unwrap()))).collect();
    let first = (0..response.len()).max_by(|a, b| response[*a].abs().total_cmp(&response[*b].abs())).unwrap();
    // Without lows and highs a click has a little less than all of its height: both have lost as much.
    assert!(
        (response[first + 960] / response[first] - 0.2).abs() < 0.005,
        "{}",
        response[first + 960] / response[first]
    );
    assert!((0.35..0.5).contains(&response[first]), "{}", response[first]);
    let other = json!({"kind": "sweep", "params": {"seconds": 1.5}});
    let said = refused(serve.send("POST", &address("hall.wav", &other), &recording));
    assert!(
        said.contains("the sweep that was played, if that was not 20.0 Hz to 20.0 kHz in 1.50 s"),
        "{said}"
    );

    // Deleted, it can be taken back; a bench is none.
    let (id, revision) = (again["id"].as_i64().unwrap(), again["revision"].as_i64().unwrap());
    assert_eq!(serve.ask("DELETE", &format!("/api/responses/{id}?revision={revision}"), None).0, 204);
    assert_eq!(list().as_array().unwrap().len(), kept);
    assert_eq!(serve.ask("POST", &format!("/api/responses/{id}/restore"), None).0, 200);
    assert_eq!(serve.ask("GET", &format!("/api/benches/{id}"), None).0, 404);
}

/// A kept response answers as loudly as it was recorded, whatever rate it came from, on its way through the server: at 200 Hz by the sum over
/// its samples at its own rate.
#[test]
fn a_kept_response_is_as_loud_as_it_was_recorded() {
    let data = common::data_folder();
    let serve = Serve::start(data.path(), 0);
    let power =
        |sound: &Buffer| -> f64 { sound.channels().iter().flatten().map(|x| f64::from(*x).powi(2)).sum() };
    for rate_hz in [22_050u32, 44_100, 48_000, 96_000, 192_000] {
        let rate = f64::from(rate_hz);
        // A swell, so that nothing lies near half of any of these rates.
        let at = |n: usize| {
            let t = cast::real(n) / rate;
            48.0 / rate * 1000.0 * t / 0.004 * (-t / 0.004).exp()
        };
        let samples: Vec<f64> = (0..cast::frames(0.2, rate_hz)).map(at).collect();
        let turn = std::f64::consts::TAU * 200.0 / rate;
        let (re, im) = samples.iter().enumerate().fold((0.0, 0.0), |(re, im), (n, x)| {
            (re + x * (turn * cast::real(n)).cos(), im + x * (turn * cast::real(n)).sin())
        });
        let kept = Buffer::new(rate_hz, vec![samples.into_iter().map(cast::sample).collect()]).unwrap();
        let wav = clear_bend_media::Format::Wav32.write(&kept).unwrap();
        let (status, kept) = serve.send("POST", &format!("/api/responses/bring?name={rate_hz}.wav"), &wav);
        assert_eq!(status, 201, "{kept}");
        let mut bench = serde_json::to_value(BenchDocument::fresh()).unwrap();
        bench["stems"][0]["source"] =
            json!({"kind": "sine", "params": {"freq_hz": 200, "seconds": 1, "level_dbfs": -40}});
        bench["stems"][0]["snapshots"][0]["stages"] = json!([{
            "effect": "convolution", "mix": 1, "params": {"level": "as recorded"},
            "sounds": {"response": {"kind": "track", "track": kept["document"]["source"]["track"]}}
        }]);
        bench["view"] = json!({});
        let exported = |part: &str| {
            let asked = json!({"document": bench, "part": part, "format": "wav32"}).to_string();
            let (status, file) = serve.bytes("POST", "/api/exports", asked.as_bytes());
            assert_eq!(status, 200, "{}", String::from_utf8_lossy(&file));
            read_sound(&file).unwrap()
        };
        let gain_db = 10.0 * (power(&exported("after")) / power(&exported("before"))).log10();
        let wanted_db = 20.0 * f64::hypot(re, im).log10();
        println!("{rate_hz} Hz: {gain_db:.3} dB, by its sum {wanted_db:.3} dB");
        assert!((gain_db - wanted_db).abs() < 0.1, "{rate_hz} Hz: {gain_db} for {wanted_db} dB");
    }
}
