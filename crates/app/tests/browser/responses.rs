//! A convolution reverb on the page: its response is chosen, heard, seen, bent, kept and handed out.

use std::sync::Arc;

use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_media::write_wav;
use clear_bend_playing::path::Play;
use clear_bend_playing::render::render_with;
use clear_bend_signals::Source;
use clear_bend_sound::Buffer;
use fantoccini::Locator;
use serde_json::json;

use super::dynamics::{add, show};
use super::equaliser::enter;
use super::explaining::choose;
use super::{TAP, choose_source, hear, heard_dbfs, holds_dbfs};
use crate::browser::Driver;
use crate::common::{self, Serve};

#[tokio::test(flavor = "multi_thread")]
async fn a_response_is_chosen_heard_seen_and_kept() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    choose_source(&page, "slip-hits").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "convolution").await;

    // It comes with a response; every picture of rooms shows it, and nothing is set that it could be held against.
    let slot = "//label[contains(., 'Response: the room, plate or cabinet')]/following::select[1]";
    let chosen = page.client.wait().for_element(Locator::XPath(slot)).await.unwrap();
    assert_eq!(chosen.prop("value").await.unwrap().unwrap(), "response-net-loft");
    for name in ["Decay", "Decay by octave", "Response", "Falling, over time", "Density", "Left to right"] {
        show(&page, name).await;
        let drawn = "const c = document.querySelector('[role=tabpanel] canvas'); return (c?.toDataURL().length ?? 0) > 4000";
        page.until(name, drawn).await;
        page.settled().await;
        let said = page.run("return document.querySelector('[role=tabpanel]').textContent").await.to_string();
        assert!(!said.contains("set"), "{name}: {said}");
    }
    show(&page, "Decay").await;
    let t30 = || async {
        page.settled().await;
        let said = page.text("p[aria-live=polite]").await;
        let seconds =
            said.split("falls by 60 dB in ").nth(1).and_then(|rest| rest.split(" s").next()).unwrap();
        seconds.parse::<f64>().unwrap()
    };
    let short = t30().await;
    chosen.select_by_value("response-tide-hall").await.unwrap();
    let long = t30().await;
    assert!((0.5..1.0).contains(&short) && (1.6..3.0).contains(&long), "{short} s and {long} s");
    // Its bends are measured through it: stretched, it falls slower.
    page.until("bends", "return !document.querySelector('[data-stale-bend]')").await;
    page.set("Stretch", "200").await;
    let stretched = t30().await;
    assert!((stretched / long - 2.0).abs() < 0.25, "{stretched} s for {long} s");
    page.set("Stretch", "100").await;
    assert!((t30().await - long).abs() < 0.05);
    assert_eq!(page.axe().await, Vec::<String>::new());

    // Pink noise is as loud through the response alone as without it.
    choose(&page, "Level match", "off").await;
    choose_source(&page, "pink-noise").await;
    page.group("Room").await;
    page.set("Mix", "100").await;
    page.settled().await;
    let loudness = page.text("tr[data-row=change] td:nth-of-type(4)").await;
    let changed: f64 =
        loudness.trim_start_matches('+').replace('\u{2212}', "-").split(' ').next().unwrap().parse().unwrap();
    assert!(changed.abs() < 0.5, "{loudness}");
    // White noise is as loud everywhere; pink noise sways.
    choose_source(&page, "white-noise").await;
    page.press("Play").await;
    hear(&page, "Before").await;
    let before = holds_dbfs(&page).await;
    hear(&page, "After").await;
    // An impulse answers with the sound itself, and so does no response.
    page.group("Response").await;
    let chosen = page.client.wait().for_element(Locator::XPath(slot)).await.unwrap();
    for value in ["impulse", "none"] {
        chosen.select_by_value(value).await.unwrap();
        page.settled().await;
        let mut dry = holds_dbfs(&page).await;
        for _ in 0..4 {
            // The other response is made between blocks.
            if (dry - before).abs() < 0.7 {
                break;
            }
            dry = holds_dbfs(&page).await;
        }
        assert!((dry - before).abs() < 0.7, "{value}: {before} and {dry}");
    }
    page.press("Pause").await;

    // Kept as it is named, and handed out as the core renders it.
    chosen.select_by_value("response-spring").await.unwrap();
    choose_source(&page, "slip-hits").await;
    page.settled().await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    let id = page.run("return location.pathname.split('/').pop()").await;
    let document =
        serve.ask("GET", &format!("/api/benches/{}", id.as_str().unwrap()), None).1["document"].clone();
    let stage = &document["stems"][0]["snapshots"][0]["stages"][0];
    assert_eq!(stage["sounds"], json!({"response": {"kind": "response-spring"}}));
    let wanted = json!({"document": document, "part": "after", "format": "wav32"}).to_string();
    let (status, file) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
    assert_eq!(status, 200);
    let file = clear_bend_media::read_sound(&file).unwrap();
    let stems = BenchDocument::from_value(document.clone()).unwrap().check().unwrap();
    let samples = |source: &Source| source.render(BENCH_RATE_HZ, 2).unwrap();
    let path =
        stems[0].path.clone().with_sounds(|_, slot, source| Some(Arc::new(slot.laid(&samples(source), 0))));
    let core = render_with(&path, &samples(&stems[0].source), Play::Round, |_| {}).after;
    assert_eq!(file.frames(), core.frames());
    let differs = |(a, b): (&f32, &f32)| (a - b).abs() > 1e-6;
    assert!(!file.channels().iter().flatten().zip(core.channels().iter().flatten()).any(differs));
    assert_eq!(page.console().await, Vec::<String>::new());

    // A track as the response that was never brought here: it is named, the sound passes, and all else goes on.
    let mut elsewhere = document.clone();
    let gone = "5eed".repeat(16);
    elsewhere["stems"][0]["snapshots"][0]["stages"][0]["sounds"]["response"] =
        json!({"kind": "track", "track": gone});
    let body = json!({"name": "From elsewhere", "document": elsewhere}).to_string();
    let (status, kept) = serve.ask("POST", "/api/benches", Some(&body));
    assert_eq!(status, 201, "{kept}");
    page.client.goto(&format!("{}/bench/{}", serve.address, kept["id"])).await.unwrap();
    page.until("what is said of it", "return [...document.querySelectorAll('[role=alert]')].some(p => p.textContent.startsWith('The track that begins with 5eed5eed is not kept here'))").await;
    page.settled().await;
    assert!(page.text("tr[data-row=change] td:nth-of-type(4)").await.starts_with("0.0 dB"));
    page.client.close().await.unwrap();
}

/// A response of four channels, of which only the third answers: what comes in on the right comes out on the left, and half the power of
/// noise that is another one on each side is left. Two of its channels would be silent.
#[tokio::test(flavor = "multi_thread")]
async fn true_stereo_is_brought_heard_and_measured() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let mut four = Buffer::new(BENCH_RATE_HZ, vec![vec![0.0; 9600]; 4]).unwrap();
    four.channels_mut()[2][0] = 0.9;
    let (status, kept) =
        serve.send("POST", "/api/responses/bring?name=Right%20to%20left.wav", &write_wav(&four).unwrap());
    assert_eq!(status, 201, "{kept}");
    let document = json!({"format": "clear-bend-bench", "version": 3, "listening": {"level_match": "off"}, "view": {"spotlight": null},
        "stems": [{"source": {"kind": "white-noise", "params": {"level_dbfs": -30, "seconds": 4}},
            "snapshots": [{"stages": [{"effect": "convolution", "mix": 1, "params": {"level": 1}, "sounds": {"response": {"kind": "impulse"}}}]}]}]});
    let body = json!({"name": "Crossed", "document": document}).to_string();
    let (status, bench) = serve.ask("POST", "/api/benches", Some(&body));
    assert_eq!(status, 201, "{bench}");
    page.client.goto(&format!("{}/bench/{}", serve.address, bench["id"])).await.unwrap();
    page.wait("[aria-label^='Remove Convolution']").await;
    page.run(TAP).await;
    page.settled().await;
    page.press("Play").await;
    let dry = holds_dbfs(&page).await;
    page.press("Responses").await;
    let use_it = "[aria-label='Use Right to left']";
    page.wait(use_it).await;
    let said = page.run("return document.querySelector('[role=dialog]').textContent").await.to_string();
    assert!(said.contains("true stereo"), "{said}");
    page.click(Locator::Css(use_it)).await;
    page.settled().await;
    // Half of the power of the sum of both sides, and 0.9 of that.
    let expected = 10.0 * (0.5f64 * 0.81).log10();
    let mut crossed = holds_dbfs(&page).await;
    for _ in 0..4 {
        if (crossed - dry - expected).abs() < 0.5 {
            break;
        }
        crossed = holds_dbfs(&page).await;
    }
    assert!((crossed - dry - expected).abs() < 0.5, "{dry} and {crossed} dBFS");
    page.until("the measured change", "return /^.(3[.][89]|4[.]0) dB/.test(document.querySelector('tr[data-row=change] td:nth-of-type(4)').textContent)").await;
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_room_is_built_by_its_measures() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "convolution").await;
    let slot = "//label[contains(., 'Response: the room, plate or cabinet')]/following::select[1]";
    let chosen = page.client.wait().for_element(Locator::XPath(slot)).await.unwrap();
    chosen.select_by_value("response-of-a-room").await.unwrap();
    page.settled().await;
    page.press("Play").await;
    page.press("Open the room").await;

    // The numbers of the usual room by hand: 7.2 x 5.1 x 3.1 m, the floor 1.4 + 1.2 m under the ways there and back.
    let direct = (3.4f64.powi(2) + 0.7f64.powi(2) + 0.2f64.powi(2)).sqrt();
    let floor = (3.4f64.powi(2) + 0.7f64.powi(2) + 2.6f64.powi(2)).sqrt();
    let said =
        format!("comes {:.1} ms after the direct sound, from the floor", (floor - direct) / 343.0 * 1000.0);
    page.until("the plan", &format!("return document.body.innerText.includes('{said}')")).await;
    let row = |name: &'static str, band: usize| {
        let page = &page;
        async move {
            let css = format!(
                "return [...document.querySelectorAll('[aria-label=\"Walls and decay\"] tr')].find(row => row.cells[0].textContent === '{name}').cells[{}].textContent",
                band + 1
            );
            let text = page.run(&css).await.as_str().unwrap().to_owned();
            text.split(' ').next().unwrap().parse::<f64>().unwrap_or(f64::NAN)
        }
    };
    let measured = "return /^[0-9.]+ s$/.test(document.querySelector('tr[data-row=measured] td:nth-of-type(4)').textContent) && !document.querySelector('[aria-label^=\"Room response\"][data-stale]')";
    page.until("the measured decay", measured).await;
    let (eyring, t30) = (row("Decay after Eyring", 3).await, row("T30, measured", 3).await);
    assert!((t30 / eyring - 1.0).abs() < 0.1, "{t30} and {eyring} s");

    // Lit in the list, lit in both views; a place is moved by keys and taken back.
    page.press("ceiling").await;
    assert_eq!(page.run("return document.querySelectorAll('[data-lit-way=ceiling]').length").await, 2);
    page.picture("room").await;
    let listener = "return document.querySelector('[aria-label=\"Listener in the plan\"]').getAttribute('aria-valuetext')";
    let before = page.run(listener).await;
    assert_eq!(before, "listener from the front 5.0 m, listener from the left 2.8 m");
    page.wait("[aria-label='Listener in the plan']").await.send_keys("\u{E014}\u{E013}").await.unwrap();
    assert_eq!(page.run(listener).await, "listener from the front 5.1 m, listener from the left 2.9 m");
    page.run("document.querySelector('[aria-label=\"Listener in the plan\"]').blur()").await;
    page.keys("z").await;

    // A smaller room takes the listener along; a wall by hand takes what it is told, and the room rings shorter.
    enter(&page, "Length, typed value", "4").await;
    assert!(page.run(listener).await.as_str().unwrap().starts_with("listener from the front 3.9 m"));
    enter(&page, "Floor, 1 kHz, typed value", "90").await;
    page.until("by hand", "return [...document.querySelectorAll('[aria-label=\"Walls and decay\"] select')][4].selectedOptions[0].text === 'by hand'").await;
    page.until("the measured decay", measured).await;
    let (shorter, by_formula) = (row("T30, measured", 3).await, row("Decay after Eyring", 3).await);
    assert!(shorter < t30 && by_formula < 0.7 * eyring, "{shorter} and {by_formula} s, {t30} before");

    // Over the height: nine measured values, and it is heard all the while.
    let over = page.wait("select:has(option[value=height_m])").await;
    over.select_by_value("height_m").await.unwrap();
    page.until("the bend", "return document.querySelector('[data-bend-points]')?.dataset.bendPoints === '9'")
        .await;
    assert!(heard_dbfs(&page).await > -60.0);
    assert_eq!(page.axe().await, Vec::<String>::new());
    // Closed by the keyboard, which goes back to where it came from.
    page.keys("\u{E00C}").await;
    page.until("the way back", "return document.activeElement.textContent === 'Open the room'").await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    let id = page.run("return location.pathname.split('/').pop()").await;
    let document =
        serve.ask("GET", &format!("/api/benches/{}", id.as_str().unwrap()), None).1["document"].clone();
    let sound = &document["stems"][0]["snapshots"][0]["stages"][0]["sounds"]["response"];
    assert_eq!(sound["kind"], "response-of-a-room");
    assert_eq!(
        (&sound["params"]["length_m"], &sound["params"]["floor_absorption_1000"]),
        (&json!(4.0), &json!(0.9))
    );
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// A design is drawn by hand and by keys, heard at once, measured as it was drawn, kept, handed out, and opened again from its file.
#[tokio::test(flavor = "multi_thread")]
async fn a_response_is_drawn_heard_kept_and_opened_again() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.run(include_str!("../scripts/catch_files.js")).await;
    page.settled().await;
    choose_source(&page, "slip-hits").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "convolution").await;
    let slot = "//label[contains(., 'Response: the room, plate or cabinet')]/following::select[1]";
    let chosen = page.client.wait().for_element(Locator::XPath(slot)).await.unwrap();
    chosen.select_by_value("response-by-design").await.unwrap();
    page.settled().await;
    page.press("Play").await;
    page.press("Open the design").await;
    let drawn = || {
        page.until("the design", "return document.querySelector('[data-of-bench] canvas') && !document.querySelector('[data-design-stale]') && document.body.innerText.includes('reflections are thrown')")
    };
    drawn().await;

    // The growth curve: a further point by the button, its values typed, and one moved by keys.
    page.press("Add a point").await;
    enter(&page, "Time, typed value", "200 ms").await;
    enter(&page, "Value, typed value", "4000").await;
    let point = |n: usize| {
        format!(
            "return document.querySelector('[aria-label=\"Echo density, point {n}\"]').getAttribute('aria-valuetext')"
        )
    };
    assert_eq!(page.run(&point(2)).await, "0.20 s, 4000 per s");
    page.wait("[aria-label='Echo density, point 1']").await.send_keys("\u{E00F}\u{E00F}").await.unwrap();
    let lower = page.run(&point(1)).await;
    let per_s: f64 = lower.as_str().unwrap().split([' ', ',']).nth(3).unwrap().parse().unwrap();
    assert!((300.0..400.0).contains(&per_s), "{lower}");
    drawn().await;
    page.picture("design").await;

    // Decay at 1 kHz as it is set, measured in what is heard.
    page.click(Locator::XPath("//label[contains(., 'Decay at 1 kHz')]")).await;
    enter(&page, "Value, typed value", "1.1").await;
    drawn().await;
    let rings = "return document.body.innerText.match(/At 1 kHz it rings ([0-9.]+) s; the curves say ([0-9.]+) s/).slice(1).map(Number)";
    let said = page.run(rings).await;
    let (measured, set) = (said[0].as_f64().unwrap(), said[1].as_f64().unwrap());
    assert!((set - 1.1).abs() < 0.011 && (measured / set - 1.0).abs() < 0.05, "{said}");
    // One reflection by hand; taken back and done again like any change of the bench.
    page.click(Locator::XPath("//label[contains(., 'Placed by hand')]")).await;
    page.press("Add a reflection").await;
    enter(&page, "Level, typed value", "6").await;
    page.until("one by hand", "return document.body.innerText.includes(', 1 is placed by hand')").await;
    // The bench has it as well by then, and the ear.
    page.settled().await;
    assert!(heard_dbfs(&page).await > -60.0);
    assert_eq!(page.axe().await, Vec::<String>::new());
    let reflection =
        "return document.querySelector('[aria-label=\"Reflection 1\"]').getAttribute('aria-valuetext')";
    assert_eq!(page.run(reflection).await, "10.0 ms, 6.0 dB");
    page.run("document.activeElement.blur()").await;
    page.keys("\u{E009}z\u{E000}").await;
    page.until("what was before", "return document.querySelector('[aria-label=\"Reflection 1\"]').getAttribute('aria-valuetext') === '10.0 ms, 0.0 dB'").await;

    // Kept under a name, and as a file.
    let name = "//label[contains(., 'Name of the response')]/following::input[1]";
    let name = page.client.wait().for_element(Locator::XPath(name)).await.unwrap();
    name.clear().await.unwrap();
    name.send_keys("Boathouse\u{E007}").await.unwrap();
    page.until("keeping", "return document.body.innerText.includes('Kept as \u{201c}Boathouse\u{201d}')")
        .await;
    page.press("Save as WAV").await;
    page.until("the file", "return window.caught.length === 1 && window.caught[0].name === 'Boathouse.wav' && window.caught[0].blob.size > 100000").await;
    let kept = serve.ask("GET", "/api/responses", None).1;
    assert_eq!((&kept[0]["name"], &kept[0]["about"]["from"]), (&json!("Boathouse"), &json!("designed")));
    let id = kept[0]["id"].as_i64().unwrap();
    let source = serve.ask("GET", &format!("/api/responses/{id}"), None).1["document"]["source"].clone();
    assert_eq!(source["design"]["curves"]["density_per_s"][1], json!([0.2, 4000.0]));
    assert_eq!(source["design"]["placed"].as_array().unwrap().len(), 1);

    // Another one in its place, and the kept one again.
    page.keys("\u{E00C}").await;
    chosen.select_by_value("response-tank").await.unwrap();
    page.settled().await;
    page.press("Responses").await;
    page.wait("[aria-label='Use Boathouse']").await;
    // The drawer slides in.
    page.settled().await;
    page.picture("responses").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    let way_in =
        "return [...document.querySelectorAll('button')].some(b => b.textContent === 'Open the design')";
    page.click(Locator::Css("[aria-label='Use Boathouse']")).await;
    page.until("the way in", way_in).await;
    page.settled().await;
    // In the list of the stage itself it stands by its name.
    chosen.select_by_value("response-tank").await.unwrap();
    page.until("no way in", &way_in.replace("return ", "return !")).await;
    chosen.select_by_value(&format!("kept:{id}")).await.unwrap();
    page.until("the way in again", way_in).await;
    page.settled().await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    let bench = page.run("return location.pathname.split('/').pop()").await;
    let saved =
        serve.ask("GET", &format!("/api/benches/{}", bench.as_str().unwrap()), None).1["document"].clone();
    assert_eq!(saved["stems"][0]["snapshots"][0]["stages"][0]["sounds"]["response"], source);
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// A long path says how far it is once that takes a second, goes on where it was when something else is asked of it, and lets go at
/// once of what is not wanted any more.
#[tokio::test(flavor = "multi_thread")]
async fn a_long_path_says_how_far_it_has_been_run() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start_looking().await);
    let mut document = serde_json::to_value(BenchDocument::fresh()).unwrap();
    let hall =
        json!({"effect": "convolution", "mix": 0.05, "sounds": {"response": {"kind": "response-tide-hall"}}});
    let stages = vec![hall; 32];
    document["stems"][0]["source"] = json!({"kind": "boatyard-loop"});
    document["stems"][0]["snapshots"] = json!([{"stages": stages}]);
    document["view"] = json!({});
    let body = json!({"name": "Thirty-two halls", "document": document}).to_string();
    let (status, saved) = serve.ask("POST", "/api/benches", Some(&body));
    assert_eq!(status, 201, "{saved}");
    // Another bench first: a window is there once something has been measured.
    let page = driver.open(&format!("{}/", serve.address), 1280, 800).await;
    page.client.goto(&format!("{}/bench/{}", serve.address, saved["id"])).await.unwrap();
    let far = "const said = [...document.querySelectorAll('[role=status]')].map(o => /stage (\\d+) of 32/.exec(o.textContent))
        .find(Boolean); return said ? Number(said[1]) : 0";
    let stage = || async { page.run(far).await.as_u64().unwrap() };
    page.until("how far it is", &format!("const n = (() => {{ {far} }})(); return n > 4")).await;
    let first = stage().await;
    // Another picture of the same path does not begin it anew.
    page.click(Locator::XPath("//button[@role='tab' and normalize-space(.)='Decay']")).await;
    page.until("more", &format!("const n = (() => {{ {far} }})(); return n === 0 || n >= {first}")).await;
    // Another sound does, and is not kept waiting by what is left.
    page.wait("select[aria-label=Source]").await.select_by_value("pink-noise").await.unwrap();
    page.until("the first stages", &format!("const n = (() => {{ {far} }})(); return n > 0 && n < 8")).await;
    page.client.close().await.unwrap();
}
