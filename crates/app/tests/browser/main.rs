//! The real interface in headless Chromium, with the real audio graph running.
#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    reason = "a test stops on the first surprise"
)]

mod access;
#[path = "../common/browser.rs"]
mod browser;
#[path = "../common/mod.rs"]
mod common;
mod dynamics;
mod equaliser;
mod explaining;
mod failing;
mod figures;
mod keeping;
mod looking;
mod moving;
mod responses;
mod resting;
mod rooms;
mod rounds;
mod sends;

use std::time::Duration;

use browser::{Driver, Page};
use clear_bend_bench::BenchDocument;
use common::Serve;
use fantoccini::Locator;
use fantoccini::actions::{InputSource, KeyAction, KeyActions};
use serde_json::{Value, json};

const TAP: &str = include_str!("../scripts/tap.js");

/// RMS level of the last 0.7 s that went to the loudspeakers, dBFS.
async fn heard_dbfs(page: &Page) -> f64 {
    tokio::time::sleep(Duration::from_millis(1100)).await;
    let level = page
        .run(
            "const x = new Float32Array(32768); window.tap.getFloatTimeDomainData(x);
              return 10 * Math.log10(x.reduce((sum, v) => sum + v * v, 0) / x.length)",
        )
        .await;
    level.as_f64().unwrap_or(f64::NEG_INFINITY)
}

/// Level that is heard once it holds, for a sound that is the same all the time: what sounded last has left by then.
async fn holds_dbfs(page: &Page) -> f64 {
    let mut last = f64::NEG_INFINITY;
    for _ in 0..12 {
        let level = heard_dbfs(page).await;
        if (level - last).abs() < 0.4 {
            return level;
        }
        last = level;
    }
    panic!("no level that holds; the last one is {last} dBFS")
}

async fn choose_source(page: &Page, kind: &str) {
    page.wait("select[aria-label=Source]").await.select_by_value(kind).await.unwrap();
    page.settled().await;
}

/// Chooses what is heard by its label.
async fn hear(page: &Page, what: &str) {
    page.click(Locator::XPath(&format!("//label[normalize-space(.)='{what}']"))).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_person_hears_sees_measures_names_and_saves() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    assert_eq!(
        page.run("return document.querySelector('input[aria-label=\"Name of the bench\"]').value").await,
        "Low water at Pellow Slip"
    );

    // Play: sound really leaves, and the picture, the sentence and the table are there.
    page.press("Play").await;
    assert!(heard_dbfs(&page).await > -40.0);
    let sentence = page.text("p[aria-live=polite]").await;
    assert!(sentence.contains("hits come out") && sentence.contains("as loud as before"), "{sentence}");
    assert!(page.text("tr[data-row=change]").await.contains("dB"));
    page.picture("bench").await;

    // Under the hand: a step of the slider for every frame lays the page out once, and what comes in of it rarely again.
    let before = page.layouts().await;
    let handle = json!("[role=slider][aria-label='Threshold']");
    let rates = page.run_async(include_str!("../scripts/keys_each_frame.js"), vec![handle, json!(2)]).await;
    let layouts = (page.layouts().await - before) / (2.0 * rates[0].as_f64().unwrap());
    println!("browser: {layouts:.2} layouts for every step of a slider");
    assert!(layouts < 2.0, "{layouts}");

    // Level match, on steady noise: before and after are equally loud at the loudspeakers, the difference is
    // far below, and without the match the compressor's reduction is heard.
    choose_source(&page, "white-noise").await;
    page.set("Threshold", "-40").await;
    page.settled().await;
    let after = heard_dbfs(&page).await;
    hear(&page, "Before").await;
    let before = heard_dbfs(&page).await;
    // The analyser hears the mean of two independent channels: 3 dB under each.
    assert!((before + 23.0).abs() < 0.2, "{before}");
    assert!((after - before).abs() < 0.3, "after {after}, before {before}");
    hear(&page, "Difference").await;
    let difference = heard_dbfs(&page).await;
    assert!(difference < before - 10.0, "{difference}");
    hear(&page, "After").await;

    // On a steady tone, a moved threshold lowers what is heard by what the static curve says.
    choose_source(&page, "sine").await;
    page.set("Level", "-10").await;
    page.set("Threshold", "-20").await;
    page.run("document.activeElement.blur()").await;
    page.keys("e").await;
    page.settled().await;
    assert_eq!(page.text("[data-testid=match-gain]").await, "off");
    // 10 dB over at 4:1 leave 2.5 over; a sine's RMS lies 3.01 dB under its peak.
    let high = heard_dbfs(&page).await;
    assert!((high - (-20.0 + 2.5 - 3.01)).abs() < 0.2, "{high}");
    page.set("Threshold", "-30").await;
    let low = heard_dbfs(&page).await;
    assert!((low - (-30.0 + 5.0 - 3.01)).abs() < 0.2, "{low}");
    println!(
        "browser: threshold -20 to -30 dBFS lowers a -10 dBFS tone by {:.3} dB; the curve says 7.500 dB",
        high - low
    );
    page.press("In to out").await;
    page.settled().await;
    page.picture("in-to-out").await;

    // A value out of range is refused with a sentence, and changes nothing.
    page.set("Ratio", "0.5").await;
    assert_eq!(page.text("[role=alert]").await, "Ratio is \u{201c}0.5\u{201d}; accepted: a number, 1 to inf");
    page.keys("\u{E00C}").await;

    // Name, save, reload: everything is as it was.
    let name = page.wait("input[aria-label='Name of the bench']").await;
    name.click().await.unwrap();
    page.client.execute("arguments[0].select()", vec![serde_json::to_value(&name).unwrap()]).await.unwrap();
    name.send_keys("Tone under the knife").await.unwrap();
    page.press("Save").await;
    page.until("saving", "return document.querySelector('[role=status]').textContent === 'Saved'").await;
    let address = page.client.current_url().await.unwrap();
    let shown = "return [document.querySelector('input[aria-label=\"Name of the bench\"]').value,
        document.querySelector('select[aria-label=Source]').value,
        document.querySelector('input[aria-label=\"Threshold, typed value\"]').value,
        document.querySelector('[data-testid=match-gain]').textContent,
        document.querySelector('[role=tab][aria-selected=true]').textContent]";
    let before_reload = page.run(shown).await;
    page.client.refresh().await.unwrap();
    page.wait("select[aria-label=Source]").await;
    page.settled().await;
    assert_eq!(page.client.current_url().await.unwrap(), address);
    assert_eq!(page.run(shown).await, before_reload);
    assert_eq!(
        before_reload,
        json!(["Tone under the knife", "sine", "\u{2212}30.0 dBFS", "off", "In to out"])
    );

    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn the_worker_and_the_command_line_give_the_same_samples() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let path = json!({"format": "clear-bend-path", "version": 1, "stages": [
        {"effect": "compressor", "params": {"threshold_db": -30, "ratio": "inf", "knee_db": 12, "attack_ms": 3}},
        {"effect": "compressor", "scope": "mid", "mix": 0.4, "params": {"threshold_db": -40, "makeup_db": 5}}]});
    // The files of the application itself, as the page has loaded them.
    let samples = page
        .run_async(include_str!("../scripts/worker_samples.js"), vec![json!({"stages": path["stages"]})])
        .await;
    page.client.close().await.unwrap();

    let at = |name: &str| data.path().join(name);
    std::fs::write(at("path.json"), path.to_string()).unwrap();
    let run = |arguments: &[&str]| {
        assert!(common::program().args(arguments).current_dir(data.path()).status().unwrap().success())
    };
    run(&["signal", "boatyard-loop", "-o", "in.wav"]);
    run(&["render", "--path", "path.json", "in.wav", "-o", "out.wav"]);
    let rendered = clear_bend_media::read_wav(&std::fs::read(at("out.wav")).unwrap()).unwrap();
    let mut largest = 0.0f32;
    for (channel, text) in rendered.channels().iter().zip(samples.as_array().expect("samples")) {
        let bytes = base64(text.as_str().unwrap());
        assert_eq!(bytes.len(), 4 * channel.len());
        for (sample, bytes) in channel.iter().zip(bytes.chunks_exact(4)) {
            largest = largest.max((sample - f32::from_le_bytes(bytes.try_into().unwrap())).abs());
        }
    }
    println!("browser: largest difference between worker and command line: {largest:e}");
    assert!(largest < 1e-5, "{largest}");
}

fn base64(text: &str) -> Vec<u8> {
    let value = |c: u8| match c {
        b'A'..=b'Z' => c - b'A',
        b'a'..=b'z' => c - b'a' + 26,
        b'0'..=b'9' => c - b'0' + 52,
        b'+' => 62,
        _ => 63,
    };
    let mut out = Vec::new();
    for four in text.trim_end_matches('=').as_bytes().chunks(4) {
        let bits =
            four.iter().fold(0u32, |bits, c| bits << 6 | u32::from(value(*c))) << (6 * (4 - four.len()));
        out.extend_from_slice(&bits.to_be_bytes()[1..four.len()]);
    }
    out
}

#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_lost_when_the_server_goes_or_somebody_else_saves() {
    let data = common::data_folder();
    let (mut serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    // An example is not saved over: what is made of it is a bench of one's own.
    page.settled().await;
    assert_eq!(page.text("header [role=status]").await, "Example");
    page.set("Ratio", "3").await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('[role=status]').textContent === 'Saved'").await;
    let (_, list) = serve.ask("GET", "/api/benches", None);
    let names: Vec<&Value> = list.as_array().unwrap().iter().map(|b| &b["name"]).collect();
    assert_eq!(names[..2], ["Low water at Pellow Slip (copy)", "Low water at Pellow Slip"]);
    let example = format!("/api/benches/{}", list[1]["id"]);
    let change = json!({"name": "Mine now", "revision": 1}).to_string();
    let (status, said) = serve.ask("PUT", &example, Some(&change));
    assert_eq!((status, &said["error"]["code"]), (409, &json!("shipped")));

    // Listening and looking are no change, and take no redo away.
    page.set("Ratio", "5").await;
    page.click(Locator::Css("button[title^='Undo: Ratio']")).await;
    hear(&page, "Before").await;
    page.click(Locator::XPath("//button[@role='tab' and normalize-space(.)='Step']")).await;
    page.press("Play").await;
    page.keys(" ").await;
    page.until("standing still", "return document.querySelector('footer button').textContent === 'Play'")
        .await;
    assert_eq!(page.text("header [role=status]").await, "Saved");
    page.click(Locator::Css("button[title^='Redo: Ratio']")).await;
    assert_eq!(
        page.run("return document.querySelector('input[type=radio][value=before]').checked").await,
        true
    );
    // Back to what is saved, as a step like any other.
    page.click(Locator::Css("[aria-label='More ways to save']")).await;
    page.click(Locator::XPath("//*[@role='menuitem' and normalize-space(.)='Back to what is saved']")).await;
    page.until("saved", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    page.click(Locator::Css("button[title='Undo: Back to what is saved']")).await;
    assert!(page.text("header [role=status]").await.contains("Unsaved changes"));
    hear(&page, "After").await;

    page.press("Play").await;
    page.set("Threshold", "-33").await;
    let port = serve.port();
    assert!(!serve.signal("-KILL"));

    // The page says so, plays on, and keeps the edits.
    page.press("Save").await;
    page.until("the notice", "return document.body.innerText.includes('The server does not answer')").await;
    assert!(heard_dbfs(&page).await > -50.0);
    page.set("Ratio", "8").await;
    page.settled().await;
    assert!(page.text("[role=status]").await.contains("Kept in this browser"));
    let serve = Serve::start(data.path(), port);
    page.until("the server", "return !document.body.innerText.includes('The server does not answer')").await;

    // A reload finds the unsaved work.
    page.client.refresh().await.unwrap();
    let values = "return [...document.querySelectorAll('input[aria-label$=\"typed value\"]')].map(i => i.value).filter(v => v.includes('33.0') || v.includes('8.0 :'))";
    page.wait("input[aria-label='Ratio, typed value']").await;
    assert_eq!(page.run(values).await, json!(["\u{2212}33.0 dBFS", "8.0 : 1"]));

    // Somebody else saves the same bench: nothing is overwritten, and mine becomes a bench of its own.
    let (_, list) = serve.ask("GET", "/api/benches", None);
    let id = list
        .as_array()
        .unwrap()
        .iter()
        .find(|b| b["name"] == "Low water at Pellow Slip (copy)")
        .unwrap()["id"]
        .clone();
    let theirs = json!({"name": "Theirs", "revision": 1, "document": BenchDocument::fresh()}).to_string();
    assert_eq!(serve.ask("PUT", &format!("/api/benches/{id}"), Some(&theirs)).0, 200);
    page.press("Save").await;
    page.press("Save mine as a new bench").await;
    page.until("saving", "return document.querySelector('[role=status]').textContent === 'Saved'").await;
    let (_, list) = serve.ask("GET", "/api/benches", None);
    let names: Vec<&Value> = list.as_array().unwrap().iter().map(|b| &b["name"]).collect();
    assert_eq!(names[..3], ["Low water at Pellow Slip (copy 2)", "Theirs", "Low water at Pellow Slip"]);

    // Undo goes back by name, and redo forth.
    page.set("Threshold", "-6").await;
    page.click(Locator::Css("button[title='Undo: Threshold \u{2212}6.0 dBFS']")).await;
    assert_eq!(
        page.run("return document.querySelector('input[aria-label=\"Threshold, typed value\"]').value").await,
        "\u{2212}33.0 dBFS"
    );
    page.click(Locator::Css("button[title='Redo: Threshold \u{2212}6.0 dBFS']")).await;
    assert_eq!(
        page.run("return document.querySelector('input[aria-label=\"Threshold, typed value\"]').value").await,
        "\u{2212}6.0 dBFS"
    );

    // A click in a bend sets the value where the outcome is wanted: at the right end, here.
    page.run("performance.clearMeasures()").await;
    page.wait("svg[aria-label^='Bend of Ratio']").await;
    page.run(
        "const bend = document.querySelector(\"svg[aria-label^='Bend of Ratio']\"); const box = bend.getBoundingClientRect();
         bend.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: box.right - 2, clientY: box.top + 5 }))",
    )
    .await;
    page.wait("button[title='Undo: Ratio \u{221e} : 1']").await;
    assert_eq!(
        page.run("return document.querySelector('input[aria-label=\"Ratio, typed value\"]').value").await,
        "\u{221e} : 1"
    );

    // The list of benches: rename one, delete it and take it back.
    page.press("Benches").await;
    page.click(Locator::Css("button[aria-label='Rename Theirs']")).await;
    page.type_into("form input", " again").await;
    page.press("Rename").await;
    page.click(Locator::Css("button[aria-label='Delete Theirs again']")).await;
    page.press("Take back").await;
    page.wait("button[aria-label='Delete Theirs again']").await;
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn everyone_can_use_it() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    assert!(page.run("return document.documentElement.scrollHeight <= 800").await.as_bool().unwrap());

    // Keyboard alone: from the top of the page to a slider, and the slider moves by all its keys.
    page.run("document.activeElement.blur()").await;
    let focused =
        "return document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent";
    let mut reached = Vec::new();
    for _ in 0..60 {
        page.keys("\u{E004}").await;
        reached.push(page.run(focused).await.as_str().unwrap_or_default().to_owned());
        if reached.last().is_some_and(|name| name == "Threshold")
            && page.run("return document.activeElement.role").await == "slider"
        {
            break;
        }
    }
    for name in
        ["Benches", "Name of the bench", "Dark page", "Source", "Compressor on", "Over time: reading line"]
    {
        assert!(reached.iter().any(|r| r == name), "{name} is not reached by the keyboard: {reached:?}");
    }
    let value = "return document.activeElement.getAttribute('aria-valuetext')";
    for (key, expected) in [
        ("\u{E011}", "\u{2212}60.0 dBFS"),
        ("\u{E014}", "\u{2212}59.4 dBFS"),
        ("\u{E00E}", "\u{2212}53.4 dBFS"),
        ("\u{E010}", "0.0 dBFS"),
        ("\u{E012}", "\u{2212}0.6 dBFS"),
        ("\u{E017}", "\u{2212}20.0 dBFS"),
    ] {
        page.keys(key).await;
        assert_eq!(page.run(value).await, expected);
    }
    // The wheel moves what has been taken hold of, finer with Shift, and scrolls the page over everything else.
    let turn = |shift: bool| {
        format!(
            "document.querySelector('[role=slider][aria-label=Threshold]').dispatchEvent(new WheelEvent('wheel', {{ deltaY: -100, shiftKey: {shift}, bubbles: true, cancelable: true }}))"
        )
    };
    page.run(&turn(false)).await;
    assert_eq!(page.run(value).await, "\u{2212}18.8 dBFS");
    page.run(&turn(true)).await;
    assert_eq!(page.run(value).await, "\u{2212}18.6 dBFS");
    page.run(&format!("document.activeElement.blur(); {}", turn(false))).await;
    let threshold = "[role=slider][aria-label=Threshold]";
    let said = format!("return document.querySelector('{threshold}').getAttribute('aria-valuetext')");
    assert_eq!(page.run(&said).await, "\u{2212}18.6 dBFS");
    // A drag goes from where it begins, the middle; with Shift held, less far.
    let mut ends = Vec::new();
    for shift in [false, true] {
        let keys = KeyActions::new("shift".to_owned());
        if shift {
            page.client.perform_actions(keys.then(KeyAction::Down { value: '\u{E008}' })).await.unwrap();
        }
        dynamics::drag(&page, threshold, (40.0, 0.0)).await;
        page.client.release_actions().await.unwrap();
        let said = page.run(&said).await;
        ends.push(
            said.as_str().unwrap().replace(['\u{2212}', 'd', 'B', 'F', 'S', ' '], "").parse::<f64>().unwrap(),
        );
    }
    let [coarse, fine] = [ends[0], ends[1]].map(|end| 30.0 - end);
    assert!(
        coarse > 5.0 && (0.05..0.25).contains(&(fine / coarse)),
        "{coarse} and {fine} dB from the middle"
    );
    page.run("document.activeElement.blur()").await;
    page.keys(" ").await;
    page.until(
        "playing",
        "return [...document.querySelectorAll('button')].some(b => b.textContent === 'Pause')",
    )
    .await;
    page.keys("?").await;
    page.until("the keys", "return document.body.innerText.includes('play or pause')").await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.keys("\u{E00C}").await;

    // Dark, on a phone, and at 200 %: no violation, nothing cut off sideways.
    page.press("Benches").await;
    page.until("the list", "return document.body.innerText.includes('Tone staircase')").await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.keys("\u{E00C}").await;
    tokio::time::sleep(Duration::from_millis(500)).await;
    page.click(Locator::Css("button[aria-label='Dark page']")).await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.picture("bench-dark").await;
    let sideways = "return document.documentElement.scrollWidth <= window.innerWidth";
    for (name, width, height, dots) in [("bench-narrow", 390, 844, 1), ("bench-zoomed", 640, 400, 2)] {
        page.resize(width, height, dots).await;
        page.settled().await;
        assert!(page.run(sideways).await.as_bool().unwrap(), "{name} is wider than its window");
        assert_eq!(page.axe().await, Vec::<String>::new());
        if width == 390 {
            page.picture(name).await;
        }
    }
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
