//! A convolution reverb on the page: its response is chosen, heard, seen, bent, kept and handed out.

use std::sync::Arc;

use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_core::path::Play;
use clear_bend_core::render::render_with;
use clear_bend_core::signals::Source;
use fantoccini::Locator;
use serde_json::json;

use super::dynamics::{add, show};
use super::explaining::choose;
use super::{TAP, choose_source, hear, holds_dbfs};
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
    let stems = BenchDocument::from_value(document).unwrap().check().unwrap();
    let samples = |source: &Source| source.render(BENCH_RATE_HZ, 2).unwrap();
    let path =
        stems[0].path.clone().with_sounds(|_, slot, source| Some(Arc::new(slot.laid(&samples(source), 0))));
    let core = render_with(&path, &samples(&stems[0].source), Play::Round, |_| {}).after;
    assert_eq!(file.frames(), core.frames());
    let differs = |(a, b): (&f32, &f32)| (a - b).abs() > 1e-6;
    assert!(!file.channels().iter().flatten().zip(core.channels().iter().flatten()).any(differs));
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
