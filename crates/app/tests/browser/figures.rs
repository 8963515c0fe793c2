//! Figures for docs/performance.md; nothing is asserted about time.

use std::time::{Duration, Instant};

use fantoccini::Locator;
use serde_json::{Value, json};

use super::dynamics::{add, show};
use super::explaining::choose;
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

/// The bends of edits since `window.pressed`; those of the edit before may come still.
const BENDS_SINCE: &str =
    "performance.getEntriesByName('clear-bend edit to bend').filter(e => e.startTime >= window.pressed)";

/// Prints median and slowest of what the page has timed under a name; gives how many there are.
async fn figure(page: &Page, name: &str) -> usize {
    let script =
        format!("return performance.getEntriesByName('{name}').map(e => e.duration).sort((a, b) => a - b)");
    let times: Vec<f64> =
        page.run(&script).await.as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    let [median, slowest] =
        [times.get(times.len() / 2), times.last()].map(|time| time.copied().unwrap_or(f64::NAN));
    println!("browser: {name}: median {median:.1} ms, slowest of {} {slowest:.1} ms", times.len());
    times.len()
}

/// Ten minutes of stereo: brought by an upload, then opened from what is kept.
async fn ten_minutes(serve: &Serve, page: &Page, folder: &std::path::Path) {
    let file = folder.join("ten.wav");
    let made =
        common::program().args(["signal", "white-noise", "--seconds", "600", "-o"]).arg(&file).status();
    assert!(made.unwrap().success());
    let start = Instant::now();
    let (status, track) = serve.send("POST", "/api/tracks?name=ten.wav", &std::fs::read(&file).unwrap());
    assert_eq!(status, 201, "{track}");
    println!(
        "browser: ten minutes of white noise brought, 230 MB of 32-bit float: {:.1} s",
        start.elapsed().as_secs_f64()
    );
    page.client.refresh().await.unwrap();
    let key = format!("track:{}", track["hash"].as_str().unwrap());
    page.wait(&format!("option[value='{key}']")).await;
    page.settled().await;
    page.run("window.asked = performance.now(); new MutationObserver(() => {
            const said = document.body.innerText;
            window.coming ||= said.includes('The track is coming in');
            if (window.coming && !said.includes('The track is coming in')) window.opened ??= performance.now() - window.asked;
            if (/60.0 s of 600/.test(said)) window.drawn ??= performance.now() - window.asked;
        }).observe(document.body, { subtree: true, childList: true, characterData: true })").await;
    page.wait("select[aria-label=Source]").await.select_by_value(&key).await.unwrap();
    page.until("the overview", "return window.drawn > 0 && window.opened > 0").await;
    let times = page.run("return [window.opened, window.drawn]").await;
    println!(
        "browser: ten minutes opened from what is kept in {:.2} s, overview after {:.2} s",
        times[0].as_f64().unwrap() / 1000.0,
        times[1].as_f64().unwrap() / 1000.0
    );
    page.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
#[ignore = "figures for docs/performance.md: make figures"]
async fn figures() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    let sizes = page
        .run("return performance.getEntriesByType('resource').map(e => [e.name.split('/').pop(), e.encodedBodySize])")
        .await;
    for (part, what) in [(".js", "script"), (".wasm", "WebAssembly")] {
        let sizes = sizes.as_array().unwrap().iter();
        let total: u64 =
            sizes.filter(|s| s[0].as_str().unwrap().ends_with(part)).map(|s| s[1].as_u64().unwrap()).sum();
        println!(
            "browser: {what} after compression: {:.1} kB",
            Value::from(total).as_f64().unwrap() / 1000.0
        );
        assert!(total > 0, "{what} was loaded");
    }

    page.press("Play").await;
    let slider = page.wait("[role=slider][aria-label=Threshold]").await;
    page.run("performance.clearMeasures()").await;
    for k in 0..40 {
        slider.send_keys(if k % 2 == 0 { "\u{E012}" } else { "\u{E014}" }).await.unwrap();
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    assert!(figure(&page, "clear-bend edit to picture").await >= 30);
    page.press("Pause").await;

    // All bends after one edit: the one in the spotlight comes first.
    let complete = "return document.querySelectorAll('svg[aria-label^=\"Bend of\"]').length === 7
        && !document.querySelector('[data-stale-bend]')";
    page.until("the bends of the last edit", complete).await;
    page.run("performance.clearMeasures(); window.pressed = performance.now()").await;
    slider.send_keys("\u{E012}").await.unwrap();
    let bends = format!("{BENDS_SINCE}.map(e => [e.detail, e.duration])");
    page.until("the bends", &format!("return {bends}.length >= 13")).await;
    let times = page.run(&format!("return {bends}")).await;
    assert_eq!(times[0][0], "threshold_db");
    let time = |k: usize| times[k][1].as_f64().unwrap();
    println!(
        "browser: from edit to the bend in the spotlight {:.0} ms, to all seven {:.0} ms, with all their points {:.0} ms",
        time(0),
        time(6),
        time(12)
    );

    // A fan of five, and how long pictures take to be drawn.
    page.press("Open the fan").await;
    page.until("the fan", "return performance.getEntriesByName('clear-bend edit to fan').length > 0").await;
    figure(&page, "clear-bend edit to fan").await;
    figure(&page, "clear-bend draw").await;
    ten_minutes(&serve, &page, data.path()).await;

    // 30 s offline in the same page: our worklet against the browser's own compressor node. The best of five.
    let speeds = page.run_async(include_str!("../scripts/offline_speed.js"), vec![]).await;
    let [ours, live, theirs, all, bells, biquads, twelve, linear, plate, convolver] =
        [0, 1, 2, 3, 4, 5, 6, 7, 8, 9].map(|k| speeds[k].as_f64().unwrap_or_else(|| panic!("{speeds}")));
    println!(
        "browser: 24 bells {bells:.0} times real time, 24 BiquadFilterNodes {biquads:.0}: {:.2} times as fast; 12 bells take {:.1} % of a core in minimum phase, {:.1} % in linear phase",
        bells / biquads,
        100.0 / twelve,
        100.0 / linear
    );
    println!(
        "browser: convolution with 2.4 s {plate:.0} times real time, ConvolverNode {convolver:.0}: {:.2} times as fast",
        plate / convolver
    );
    println!(
        "browser: 30 s of noise made, compressed and handed over in WebAssembly: {ours:.0} times real time"
    );
    println!(
        "browser: DynamicsCompressorNode, same page, same length: {theirs:.0} times real time; ours is {:.2} times as fast",
        ours / theirs
    );
    println!(
        "browser: whole live path in the worklet, offline: {live:.0} times real time, {:.2} % of a core",
        100.0 / live
    );
    println!(
        "browser: all six dynamics effects in one path in the worklet: {all:.0} times real time, {:.1} % of a core",
        100.0 / all
    );
    page.client.close().await.unwrap();
}

/// The equaliser under the hand: how often its picture is drawn while a band is dragged, and how soon bends come.
#[tokio::test(flavor = "multi_thread")]
#[ignore = "figures for docs/performance.md: make figures"]
async fn figures_of_the_equaliser() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    page.settled().await;
    add(&page, "equaliser").await;
    for _ in 0..12 {
        page.press("Add band").await;
    }
    for phase in ["minimum", "linear"] {
        page.press("All bands").await;
        page.click(Locator::XPath(&format!("//*[@aria-label='Phase']//label[normalize-space(.)='{phase}']")))
            .await;
        page.settled().await;
        page.press("Play").await;
        let handle = json!("[role=slider][aria-label='Band 1, bell in the picture']");
        let script = include_str!("../scripts/drag_each_frame.js");
        let rates = page.run_async(script, vec![handle, json!(4)]).await;
        let [frames, curve, spectra] = [0, 1, 2].map(|k| rates[k].as_f64().unwrap());
        println!(
            "browser: 12 bells, {phase} phase, one dragged while it plays: {frames:.0} frames, curve drawn {curve:.0}, spectra {spectra:.0} times a second"
        );
        assert!(curve > 1.0 && spectra > 1.0);
        page.press("Pause").await;

        // Every parameter of a band, each in turn in the spotlight; the first bend that comes is the one that is asked for.
        page.click(Locator::Css("[role=group][aria-label=Bands] button[aria-label^='Band 3']")).await;
        for name in ["Frequency", "Gain", "Q"] {
            let row = format!("//button[@aria-expanded and normalize-space(.)='{name}']");
            page.click(Locator::XPath(&row)).await;
            page.until("the bends", "return document.querySelectorAll('svg[aria-label^=\"Bend of\"]').length > 3 && !document.querySelector('[data-stale-bend]')").await;
            // All the rest of the bends has come, too.
            tokio::time::sleep(Duration::from_secs(4)).await;
            page.run("performance.clearMeasures(); window.pressed = performance.now()").await;
            page.wait(&format!("[role=slider][aria-label='{name}']"))
                .await
                .send_keys("\u{E014}")
                .await
                .unwrap();
            page.until("the bends", &format!("return {BENDS_SINCE}.length > 0")).await;
            let time = page.run(&format!("return {BENDS_SINCE}[0].duration")).await;
            println!(
                "browser: 12 bells, {phase} phase: from edit to the bend of {name} {:.0} ms",
                time.as_f64().unwrap()
            );
            page.click(Locator::XPath(&row)).await;
        }
    }
    choose(&page, "Starting point", "Room for the bass").await;
    page.settled().await;
    page.client.close().await.unwrap();
}

/// The longest call and the longest block of the audio thread, in ms; a block lasts 2.67 ms.
#[tokio::test(flavor = "multi_thread")]
#[ignore = "figures for docs/performance.md: make figures"]
async fn figures_of_the_audio_thread() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    let longest = async |what: &str, paths: Vec<Value>, moved: Value| {
        let lanes = paths.len();
        let arguments = vec![json!(paths), moved];
        let found = page.run_async(include_str!("../scripts/longest.js"), arguments).await;
        let ms = |k: usize| found[k].as_f64().unwrap_or_else(|| panic!("{found}"));
        println!(
            "browser: audio thread, {lanes} lanes of {what}: longest call {:.1} ms ({}), longest block {:.1}, one in a thousand {:.1}, one in a hundred {:.1}, median {:.2} ms",
            ms(0),
            found[1],
            ms(2),
            ms(3),
            ms(4),
            ms(5)
        );
    };
    let equaliser = clear_bend_effects::find("equaliser").unwrap();
    for (name, q) in [("usual", 1.0), ("long", 12.0)] {
        let path = |lane: u32| {
            // As the page tells it: plain numbers.
            let mut params = json!({"phase": 1});
            for k in 1..=12 {
                let of_band = [
                    ("kind_#", 6.0),
                    ("freq_#_hz", 40.0 * 1.7f64.powi(k)),
                    ("gain_#_db", f64::from(lane)),
                    ("q_#", q),
                ];
                for (id, value) in of_band {
                    params[id.replace('#', &k.to_string())] = json!(value);
                }
            }
            json!({"stages": [{"effect": "equaliser", "params": params}]})
        };
        let moved = equaliser.params.iter().position(|p| p.id == "gain_3_db");
        let moved = json!({"stage": 0, "param": moved, "from": -10.0});
        for lanes in [1u32, 10, 20] {
            let what = format!("12 bells in linear phase, {name} kernels");
            longest(&what, (0..lanes).map(path).collect(), moved.clone()).await;
        }
    }
    let convolution = clear_bend_effects::find("convolution").unwrap();
    let cut = convolution.params.iter().position(|p| p.id == "tilt_db");
    for (seconds, channels, lanes) in [(3, 2, 1), (3, 2, 9), (10, 2, 1), (10, 4, 1)] {
        let moved = json!({"stage": 0, "param": cut, "from": -6.0, "responseSeconds": seconds, "responseChannels": channels});
        let path =
            json!({"stages": [{"effect": "convolution", "sounds": {"response": {"kind": "white-noise"}}}]});
        longest(&format!("convolution with {seconds} s on {channels} channels"), vec![path; lanes], moved)
            .await;
    }
    // Every effect as it comes, while the parameter moves that is explained first.
    for effect in clear_bend_effects::ALL {
        let first =
            effect.order.first().and_then(|step| effect.params.iter().position(|p| p.id == step.param));
        let place = first.unwrap_or(0);
        let moved = json!({"stage": 0, "param": place, "from": effect.params[place].default});
        let path = json!({"stages": [{"effect": effect.id}]});
        longest(effect.id, vec![path; 10], moved).await;
    }
    page.client.close().await.unwrap();
}

/// From one press of a key to all that it changes, for every group of parameters of the effects that ring or move.
#[tokio::test(flavor = "multi_thread")]
#[ignore = "figures for docs/performance.md: make figures"]
async fn figures_of_what_rings_and_moves() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    page.run("addEventListener('keydown', () => { window.pressed ??= performance.now(); }, true)").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    // The parameter that is in the spotlight and what it is set to, and the one that is moved.
    let seen: [(_, (_, _), _, &[&str]); 4] = [
        ("reverb", ("Decay", "3"), "Decay", &["Decay", "Decay by octave", "Falling spectrum"]),
        ("reverb", ("Decay", "3"), "Size", &["Decay"]),
        ("flanger", ("Depth", "1.5"), "Depth", &["Notches", "Traces", "Spectrogram"]),
        ("chorus", ("Rate", "1.5"), "Rate", &["Delay and pitch", "Sidebands"]),
    ];
    for (id, (spotlight, value), param, pictures) in seen {
        let label = clear_bend_effects::find(id).unwrap().label;
        add(&page, id).await;
        page.set(spotlight, value).await;
        for picture in pictures {
            show(&page, picture).await;
            page.until("bends", "return !document.querySelector('[data-stale-bend]')").await;
            tokio::time::sleep(Duration::from_secs(1)).await;
            page.run("performance.clearMeasures(); window.pressed = undefined").await;
            let slider = page.wait(&format!("[role=slider][aria-label='{param}']")).await;
            slider.send_keys("\u{E014}").await.unwrap();
            let first = "return window.pressed && performance.getEntriesByName('clear-bend edit to bend').some(e => e.startTime >= window.pressed - 5)";
            page.until("the first bend", first).await;
            page.until("bends", "return !document.querySelector('[data-stale-bend]')").await;
            tokio::time::sleep(Duration::from_secs(1)).await;
            let times = page.run_async(include_str!("../scripts/edit_times.js"), vec![]).await;
            let ms = |k: usize| times[k].as_f64().map_or("none".to_owned(), |ms| format!("{ms:.0}"));
            println!(
                "browser: {id}, {param} moved under {picture}: drawn after {} ms, measured after {}, its bend seen first after {}, all {} after {}",
                ms(0),
                ms(1),
                ms(2),
                times[4],
                ms(3)
            );
            assert!(times[0].as_f64().is_some_and(|ms| ms > 0.0));
        }
        // Under the hand: a step for every frame of the display, while it plays.
        page.press("Play").await;
        show(&page, pictures[0]).await;
        let handle = json!(format!("[role=slider][aria-label='{param}']"));
        let script = include_str!("../scripts/keys_each_frame.js");
        let rates = page.run_async(script, vec![handle, json!(3)]).await;
        let [frames, drawn, measured] = [0, 1, 2].map(|k| rates[k].as_f64().unwrap());
        println!(
            "browser: {id}, {param} moved for every frame under {} while it plays: {frames:.0} frames, {drawn:.0} pictures drawn and {measured:.0} measured a second",
            pictures[0]
        );
        assert!(frames > 1.0);
        page.press("Pause").await;
        page.click(Locator::Css(&format!("[aria-label^='Remove {label}']"))).await;
        page.settled().await;
    }
    page.client.close().await.unwrap();
}
