//! Dynamics on the page: lines that are dragged in the picture, keys that are heard, the order of explaining, and the
//! pictures of every effect.

use std::time::Duration;

use clear_bend_bench::BenchDocument;
use fantoccini::Locator;
use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};

use serde_json::json;

use super::explaining::{choose, typed};
use super::{TAP, choose_source, heard_dbfs};
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

/// Takes hold of something in its middle and moves it.
pub async fn drag(page: &Page, css: &str, by: (f64, f64)) {
    let (x, y, width, height) = page.wait(css).await.rectangle().await.unwrap();
    let (x, y) = (x + width / 2.0, y + height / 2.0);
    let go = |x: f64, y: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(60)), x, y };
    let moves = MouseActions::new("hand".to_owned())
        .then(go(x, y))
        .then(PointerAction::Down { button: MOUSE_BUTTON_LEFT })
        .then(go(x + by.0 / 2.0, y + by.1 / 2.0))
        .then(go(x + by.0, y + by.1))
        // As a hand does: a busy page sees where it is before it lets go.
        .then(PointerAction::Pause { duration: Duration::from_millis(200) })
        .then(PointerAction::Up { button: MOUSE_BUTTON_LEFT });
    page.client.perform_actions(moves).await.unwrap();
}

/// Shows a picture by its name.
pub async fn show(page: &Page, name: &str) {
    page.click(Locator::XPath(&format!("//button[@role='tab' and normalize-space(.)='{name}']"))).await;
    page.settled().await;
}

/// Adds a stage, which is then the chosen one.
pub async fn add(page: &Page, effect: &str) {
    choose(page, "Add a stage", effect).await;
    page.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn thresholds_are_dragged_keys_are_heard_and_an_effect_is_explained_in_order() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;

    // The line of the threshold in both pictures, by hand and by keys.
    let decibels = |typed: serde_json::Value| {
        typed.as_str().unwrap().replace('\u{2212}', "-").trim_end_matches(" dBFS").parse::<f64>().unwrap()
    };
    let line = "[role=slider][aria-label='Threshold in the picture']";
    let before = decibels(typed(&page, "Threshold").await);
    drag(&page, line, (0.0, 40.0)).await;
    let dragged = decibels(typed(&page, "Threshold").await);
    assert!(dragged < before - 6.0 && dragged > before - 30.0, "{before} to {dragged}");
    page.settled().await;
    page.wait(line).await.send_keys("\u{E013}").await.unwrap();
    assert!(decibels(typed(&page, "Threshold").await) > dragged);
    show(&page, "In to out").await;
    drag(&page, line, (60.0, 0.0)).await;
    assert!(decibels(typed(&page, "Threshold").await) > dragged + 3.0);
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());

    // Every other picture of the compressor has something to say.
    for (name, says) in [
        ("Step", "63 % after"),
        ("Onsets", "Body: RMS"),
        ("Levels", "Share of the time"),
        ("Harmonics", "harmonic distortion"),
    ] {
        show(&page, name).await;
        page.until(
            name,
            &format!("return document.querySelector('[role=tabpanel]').textContent.includes('{says}')"),
        )
        .await;
        if !["Levels", "Harmonics"].contains(&name) {
            page.picture(&name.to_lowercase()).await;
        }
    }

    // A usual setting, with its sentence.
    choose(&page, "Starting point", "Tight drums").await;
    assert_eq!(typed(&page, "Ratio").await, "1.6 : 1");
    page.until("the purpose", "return document.body.innerText.includes('pulls a kit together')").await;

    // The key alone: a tone of -40 dBFS, keyed by one of -20, is heard as its key.
    choose_source(&page, "sine").await;
    page.set("Level", "-40").await;
    page.settled().await;
    choose(&page, "Level match", "off").await;
    page.group("Key").await;
    let key = page
        .client
        .find(Locator::XPath("//label[contains(., 'Key: what the detector hears')]/following::select[1]"))
        .await
        .unwrap();
    show(&page, "Over time").await;
    let pane = "document.querySelector('[role=tabpanel] [data-picture]').textContent";
    assert!(!page.run(&format!("return {pane}")).await.as_str().unwrap().contains("Key, dBFS"));
    key.select_by_value("sine").await.unwrap();
    page.settled().await;
    // Its level has a pane of its own, in which the threshold stands.
    page.until("the key", &format!("return {pane}.includes('Key, dBFS') && {pane}.includes('Threshold')"))
        .await;
    page.press("Play").await;
    let plain = heard_dbfs(&page).await;
    choose(&page, "Hear", "1").await;
    let keyed = heard_dbfs(&page).await;
    assert!((keyed + 23.01).abs() < 0.1, "{plain} becomes {keyed}");
    choose(&page, "Hear", "0").await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Pause").await;

    // In order: each parameter at a plain setting, and back to where one was.
    page.group("Level").await;
    page.press("Explain in order").await;
    page.until("the first", "return document.body.innerText.includes('1 of 11')").await;
    page.press("Next parameter").await;
    page.until("the second", "return document.body.innerText.includes('2 of 11')").await;
    assert_eq!(typed(&page, "Threshold").await, "\u{2212}24.0 dBFS");
    page.wait("[role=tab][aria-selected=true]").await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Next parameter").await;
    page.until("the third", "return document.body.innerText.includes('3 of 11')").await;
    page.wait("input[aria-label='Attack, typed value']").await;
    page.press("To my settings").await;
    page.group("Level").await;
    assert_eq!(typed(&page, "Ratio").await, "1.6 : 1");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn every_effect_is_shown_and_heard() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    page.press("Play").await;
    for effect in ["limiter", "gate", "de-esser", "multiband", "saturation"] {
        add(&page, effect).await;
        // Something is drawn, measured, and heard through all of it.
        page.wait("svg[data-picture]").await;
        assert!(heard_dbfs(&page).await > -60.0, "{effect}");
        assert_eq!(page.axe().await, Vec::<String>::new(), "{effect}");
        if effect == "multiband" {
            show(&page, "Bands").await;
            page.until(
                "the bands",
                "return document.querySelector('svg[data-picture=Bands]').textContent.includes('Band 3')",
            )
            .await;
        }
    }
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// A loop that moves and stays as long: the key is that of the new place, in every measure.
#[tokio::test(flavor = "multi_thread")]
async fn a_key_moves_with_its_loop() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    for (name, from_s) in [("Quiet key", 0.0), ("Loud key", 4.0)] {
        let mut document = serde_json::to_value(BenchDocument::fresh()).unwrap();
        let key = json!({"kind": "staircase", "params": {"from_dbfs": -60, "to_dbfs": 0, "step_db": 10, "hold_s": 1}});
        let stage = json!({"effect": "compressor", "params": {"threshold_db": -30}, "sounds": {"key": key}});
        document["stems"][0]["source"] = json!({"kind": "sine", "params": {"seconds": 7}});
        document["stems"][0]["snapshots"] = json!([{"stages": [stage]}]);
        document["region"] = json!({"from_s": from_s, "to_s": from_s + 2.0});
        document["view"] = json!({});
        let (status, answer) =
            serve.ask("POST", "/api/benches", Some(&json!({"name": name, "document": document}).to_string()));
        assert_eq!(status, 201, "{answer}");
    }
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    let reduction = "return [...document.querySelectorAll('p')].map(o => o.textContent).find(t => t.startsWith('Gain reduction'))";
    let mut read = Vec::new();
    for name in ["Quiet key", "Loud key"] {
        page.press("Benches").await;
        page.press(name).await;
        page.until(
            "it",
            &format!(
                "return document.querySelector('input[aria-label=\"Name of the bench\"]').value === '{name}'"
            ),
        )
        .await;
        page.settled().await;
        read.push(page.run(reduction).await);
    }
    page.client.refresh().await.unwrap();
    page.settled().await;
    let afresh = page.run(reduction).await;
    assert!(afresh.is_string() && read[0] != afresh, "{read:?}");
    assert_eq!(read[1], afresh);
    page.client.close().await.unwrap();
}
