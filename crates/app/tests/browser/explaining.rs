//! The explaining bench: fans, snapshots, stems, regions, tracks, references and files, heard and seen.

use std::time::Duration;

use clear_bend_signals::{Source, SourceDocument};
use fantoccini::Locator;
use serde_json::{Value, json};

use super::{TAP, choose_source, hear, heard_dbfs};
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

/// Waits until the numbers, the bends and an open fan belong to the settings.
async fn opened(page: &Page, rows: usize) {
    page.until("the fan", &format!("return document.querySelectorAll('[data-row=fan]').length === {rows}"))
        .await;
    page.settled().await;
}

/// Chooses an entry of a select by what stands on it.
pub(super) async fn choose(page: &Page, label: &str, value: &str) {
    page.wait(&format!("select[aria-label='{label}']")).await.select_by_value(value).await.unwrap();
}

pub(super) async fn typed(page: &Page, label: &str) -> Value {
    page.run(&format!("return document.querySelector('input[aria-label=\"{label}, typed value\"]').value"))
        .await
}

/// However many workers share the work, bends and fans are the same ones.
#[tokio::test(flavor = "multi_thread")]
async fn many_workers_find_the_same_bends_and_fans() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let mut found = Vec::new();
    for (processors, workers) in [(1, 1), (2, 1), (5, 3), (64, 6)] {
        page.processors(processors).await;
        page.client.refresh().await.unwrap();
        page.settled().await;
        let here = page.run("return navigator.hardwareConcurrency").await;
        assert_eq!(here, processors);
        let started = "return performance.getEntriesByType('resource').filter(e => e.name.includes('bendWorker')).length";
        page.until("all workers", &format!("{started} >= {workers}")).await;
        // All points of all bends have come when nothing has for a while.
        let lines = "return [...document.querySelectorAll('svg[aria-label^=\"Bend of\"] path')].map(p => p.getAttribute('d'))";
        let (mut bends, mut for_long) = (page.run(lines).await, 0);
        while for_long < 4 {
            tokio::time::sleep(Duration::from_millis(500)).await;
            let now = page.run(lines).await;
            for_long = if now == bends { for_long + 1 } else { 0 };
            bends = now;
        }
        page.press("Open the fan").await;
        opened(&page, 5).await;
        let rows =
            page.run("return [...document.querySelectorAll('[data-row=fan]')].map(r => r.textContent)").await;
        assert!(bends.as_array().is_some_and(|bends| bends.len() >= 4), "{bends}");
        found.push((bends, rows));
        page.press("Close the fan").await;
        page.settled().await;
    }
    assert!(found.iter().all(|each| *each == found[0]), "{found:#?}");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_fan_is_heard_through_all_its_values_at_equal_loudness() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    // Without a fan, there is no value and no snapshot of this number.
    page.keys("0").await;
    page.press("Open the fan").await;
    // A number counts before its value has been measured.
    page.keys("2").await;
    opened(&page, 5).await;
    page.wait("tr:nth-child(2) button[aria-pressed=true][aria-label*='Hear Threshold']").await;
    page.keys("0").await;
    page.picture("fan").await;
    assert_eq!(page.axe().await, Vec::<String>::new());

    // On steady noise every value reduces by another amount, and all are heard as loud as the source.
    choose_source(&page, "white-noise").await;
    opened(&page, 5).await;
    page.press("Play").await;
    hear(&page, "Before").await;
    let before = heard_dbfs(&page).await;
    hear(&page, "After").await;
    for key in 1..=5 {
        page.run("document.activeElement.blur()").await;
        page.keys(&key.to_string()).await;
        let pressed = format!("tr:nth-child({key}) button[aria-pressed=true][aria-label*='Hear Threshold']");
        page.wait(&pressed).await;
        let level = heard_dbfs(&page).await;
        assert!((level - before).abs() < 0.4, "value {key}: {level} against {before}");
    }
    page.keys("0").await;
    page.until(
        "the own setting",
        "return !document.querySelector('[aria-label*=\"Hear Threshold\"][aria-pressed=true]')",
    )
    .await;

    // Ratios at the same amount of reduction: the threshold moves, the mean stays.
    choose_source(&page, "boatyard-loop").await;
    page.click(Locator::XPath("//button[normalize-space(.)='Ratio' and @aria-expanded]")).await;
    page.settled().await;
    page.press("Open the fan").await;
    opened(&page, 5).await;
    choose(&page, "At the same amount of", "threshold_db").await;
    page.until(
        "moved thresholds",
        "return document.querySelector('[aria-label=Fan]')?.textContent.includes('not reached')",
    )
    .await;
    opened(&page, 5).await;
    let means = page
        .run("return [...document.querySelectorAll('[data-row=fan]')].slice(1).map(r => parseFloat(r.children[3].textContent))")
        .await;
    let means: Vec<f64> = means.as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    assert!(means.len() == 4 && means.iter().all(|m| (m - means[0]).abs() <= 0.11), "{means:?}");

    // Values by hand, and one that is not accepted.
    let values = page.wait("input[aria-label^='Values of the fan']").await;
    page.client.execute("arguments[0].select()", vec![serde_json::to_value(&values).unwrap()]).await.unwrap();
    values.send_keys("2; 8; inf\u{E007}").await.unwrap();
    opened(&page, 3).await;
    let values = page.wait("input[aria-label^='Values of the fan']").await;
    page.client.execute("arguments[0].select()", vec![serde_json::to_value(&values).unwrap()]).await.unwrap();
    values.send_keys("2; 0.5\u{E007}").await.unwrap();
    assert!(page.text("[role=alert]").await.contains("accepted: a number, 1 to inf"));
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// The largest step between two samples of the last 0.68 s that went to the loudspeakers, and their peak.
async fn heard_step(page: &Page) -> (f64, f64) {
    let found = page
        .run(
            "const x = new Float32Array(32768); window.tap.getFloatTimeDomainData(x); let step = 0, peak = 0;
             for (let i = 1; i < x.length; i++) { step = Math.max(step, Math.abs(x[i] - x[i - 1])); peak = Math.max(peak, Math.abs(x[i])); }
             return [step, peak]",
        )
        .await;
    (found[0].as_f64().unwrap(), found[1].as_f64().unwrap())
}

#[tokio::test(flavor = "multi_thread")]
async fn snapshots_switch_without_a_click_and_everything_can_be_undone() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    choose_source(&page, "sine").await;
    page.set("Frequency", "100").await;
    page.set("Level", "-10").await;
    page.set("Threshold", "-40").await;
    page.group("Time").await;
    page.set("Attack", "30").await;
    page.set("Release", "300").await;
    page.group("Level").await;
    page.click(Locator::Css("button[aria-label='Keep as a new snapshot']")).await;
    page.set("Threshold", "-15").await;
    page.set("Ratio", "2").await;
    page.run("document.activeElement.blur()").await;
    page.settled().await;
    page.press("Play").await;
    tokio::time::sleep(Duration::from_millis(1500)).await;

    // Switched again and again while a low tone plays: no step that the tone itself does not have.
    let own = 2.0 * std::f64::consts::PI * 100.0 / 48_000.0;
    let mut worst = 0.0f64;
    for k in 0..8 {
        page.keys(if k % 2 == 0 { "1" } else { "2" }).await;
        tokio::time::sleep(Duration::from_millis(350)).await;
        let (step, peak) = heard_step(&page).await;
        worst = worst.max(step / (peak * own));
        assert!(step <= 1.02 * peak * own, "switch {k}: a step of {step}, the tone has {}", peak * own);
    }
    println!("browser: largest step while snapshots switch: {worst:.4} of the tone's own");

    // What the two differ in.
    page.press("Compare").await;
    page.click(Locator::XPath("//button[starts-with(normalize-space(.), 'In what')]")).await;
    page.until("the differences", "return document.body.innerText.includes('1 Compressor: Threshold')").await;
    // A dialog that is still fading in has no text to a driver.
    let said = page.run("return document.querySelector('[role=dialog] table').textContent").await.to_string();
    assert!(
        said.contains("\u{2212}15.0 dBFS") && said.contains("\u{2212}40.0 dBFS") && said.contains("2.0 : 1"),
        "{said}"
    );
    assert!(!said.contains("Attack"), "{said}");
    page.keys("\u{E00C}").await;
    page.until("the focus back", "return document.activeElement.textContent === 'Compare'").await;

    // Twenty changes of every kind, and back to the start.
    page.press("Save").await;
    page.until("saving", "return document.querySelector('[role=status]').textContent === 'Saved'").await;
    let undone = "document.querySelector(\"button[title^='Undo'], button[title='Nothing to undo']\").title";
    let start = page.run(&format!("return {undone}")).await;
    choose(&page, "Add a stage", "gain").await;
    page.set("Gain", "6").await;
    page.click(Locator::Css("button[aria-label='Move Gain, stage 2 up']")).await;
    choose(&page, "Scope of Gain, stage 1", "mid").await;
    page.click(Locator::XPath("//button[normalize-space(.)='2 Compressor']")).await;
    for (i, threshold) in (-30..-18).enumerate() {
        page.set(
            if i % 2 == 0 { "Threshold" } else { "Knee" },
            &(threshold + 40 * i32::from(i % 2 == 1)).to_string(),
        )
        .await;
    }
    choose(&page, "Level match", "peak").await;
    choose(&page, "Scope of Compressor, stage 2", "side").await;
    choose_source(&page, "pink-noise").await;
    page.click(Locator::Css("button[aria-label='Keep as a new snapshot']")).await;
    page.click(Locator::Css("button[aria-label='Remove Compressor, stage 2']")).await;
    page.settled().await;
    for k in 0..20 {
        page.press("Undo").await;
        if k == 3 {
            page.settled().await;
        }
    }
    assert_eq!(page.run(&format!("return {undone}")).await, start);
    page.until("the start", "return document.querySelector('select[aria-label=Source]').value === 'sine'")
        .await;
    assert_eq!(typed(&page, "Threshold").await, "\u{2212}15.0 dBFS");
    assert_eq!(typed(&page, "Ratio").await, "2.0 : 1");
    // How one listens is no change that is undone.
    assert_eq!(
        page.run("return document.querySelector('select[aria-label=\"Level match\"]').value").await,
        "peak"
    );
    assert_eq!(
        page.run("return document.querySelectorAll('[aria-label=\"Compressor on\"]').length").await,
        1
    );
    page.settled().await;
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_dropped_file_a_region_stems_a_reference_and_files_to_take_away() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.run(include_str!("../scripts/catch_files.js")).await;
    page.settled().await;

    // A tone of -20 dBFS, dropped: it is kept under its name and on the bench at once.
    let params = [("level_dbfs", -20.0), ("seconds", 2.0)];
    let params = params.into_iter().collect();
    let tone =
        Source::from_document(&SourceDocument::of_kind("sine", params)).unwrap().render(44_100, 1).unwrap();
    let drop = |name: &str, bytes: &[u8]| {
        let arguments = vec![json!(name), json!(base64(bytes))];
        page.client.execute(include_str!("../scripts/drop_file.js"), arguments)
    };
    drop("tide/tone \u{6f6e}.wav", &clear_bend_media::write_wav(&tone).unwrap()).await.unwrap();
    page.until(
        "the track",
        "return document.querySelector('select[aria-label=Source]').value.startsWith('track:')",
    )
    .await;
    page.settled().await;
    assert!(
        page.run("return document.querySelector('select[aria-label=Source]').selectedOptions[0].text").await
            == "tide/tone \u{6f6e}.wav"
    );
    page.press("Play").await;
    hear(&page, "Before").await;
    let level = heard_dbfs(&page).await;
    assert!((level + 23.01).abs() < 0.1, "{level}");
    // What is no sound says so, and nothing is disturbed.
    drop("letter.txt", b"not a sound").await.unwrap();
    page.until("the refusal", "return document.body.innerText.includes('it is of no known kind')").await;
    page.press("All right").await;
    drop(
        "path.json",
        br#"{"format":"clear-bend-path","version":1,"stages":[{"effect":"gain","params":{"gain_db":-6}}]}"#,
    )
    .await
    .unwrap();
    page.wait("input[aria-label='Gain, typed value']").await;
    hear(&page, "After").await;
    choose(&page, "Level match", "off").await;
    let level = heard_dbfs(&page).await;
    assert!((level + 29.01).abs() < 0.1, "{level}");

    // A shorter loop, by keys; then all of it again.
    let end = page.wait("[role=slider][aria-label='End of the loop']").await;
    for _ in 0..5 {
        end.send_keys("\u{E00F}").await.unwrap();
    }
    page.settled().await;
    let clock = page.text("[role=timer]").await;
    assert!(!clock.ends_with("0:02.0"), "{clock}");
    end.send_keys("\u{E017}").await.unwrap();
    page.until("all of it", "return document.querySelector('[role=timer]').textContent.endsWith('0:02.0')")
        .await;

    // Files to take away: sound, measures, a picture in two forms, the path.
    page.press("Files").await;
    page.wait("[role=dialog] select[aria-label=Picture]").await;
    for button in ["Save sound", "Save CSV", "Save JSON", "Save SVG", "Save PNG", "Save the path"] {
        page.press(button).await;
        tokio::time::sleep(Duration::from_millis(500)).await;
    }
    page.until("six files", "return window.caught.length === 6").await;
    let files = page
        .run_async(
            "const done = arguments[0]; Promise.all(window.caught.map(async f => [f.name, f.blob.size, (await f.blob.text()).slice(0, 3000000)])).then(done)",
            vec![],
        )
        .await;
    let file = |end: &str| {
        let files = files.as_array().unwrap();
        files
            .iter()
            .find(|f| f[0].as_str().unwrap().ends_with(end))
            .unwrap_or_else(|| panic!("no file {end}"))
    };
    assert!(file("after.wav")[1].as_u64().unwrap() > 2 * 96_000 * 4 - 100);
    let csv = file(".csv")[2].as_str().unwrap();
    assert!(csv.starts_with("measure,unit,before,after,change\npeak,dBFS,-20.0"), "{csv}");
    let svg = file(".svg")[2].as_str().unwrap();
    assert!(
        svg.starts_with("<svg") && svg.contains("<path") && svg.contains("The RMS level falls by 6.0 dB"),
        "{}",
        &svg[..300]
    );
    assert!(file(".png")[1].as_u64().unwrap() > 10_000);
    assert_eq!(file("path.json")[2].as_str().unwrap().matches("\"effect\": \"gain\"").count(), 1);
    page.keys("\u{E00C}").await;
    tokio::time::sleep(Duration::from_millis(400)).await;

    // The track as a reference: as loud as what is worked on.
    page.press("Tracks").await;
    page.wait("button[aria-label^='As reference: Tide table']").await;
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.click(Locator::Css("button[aria-label^='As reference: Tide table']")).await;
    page.wait("tr[data-row=reference]").await;
    page.run("document.activeElement.blur()").await;
    tokio::time::sleep(Duration::from_millis(400)).await;
    page.keys("r").await;
    page.until("the reference", "return document.querySelector('[data-hear]').dataset.hear === 'reference'")
        .await;
    assert!(heard_dbfs(&page).await > -60.0);

    // The piece: all stems together are louder than one, solo and mute do what they say.
    page.press("Benches").await;
    page.press("Low water, all stems").await;
    page.until("the stems", "return document.querySelectorAll('[aria-label^=Mute]').length === 8").await;
    page.settled().await;
    page.wait("tr[data-row=sum-after]").await;
    tokio::time::sleep(Duration::from_millis(500)).await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    let mean = |seconds: u32| {
        let page = &page;
        async move {
            let mut sum = 0.0;
            for _ in 0..seconds {
                sum += 10f64.powf(heard_dbfs(page).await / 10.0);
            }
            10.0 * (sum / f64::from(seconds)).log10()
        }
    };
    let together = mean(4).await;
    page.click(Locator::Css("button[aria-label='Mute Boatyard loop']")).await;
    page.click(Locator::Css("button[aria-label='Solo Blown bottles']")).await;
    page.settled().await;
    tokio::time::sleep(Duration::from_millis(600)).await;
    page.keys("s").await;
    page.until("one stem", "return document.querySelector('footer [role=switch]').checked === false").await;
    page.keys("s").await;
    page.until("all stems", "return document.querySelector('footer [role=switch]').checked === true").await;
    page.settled().await;
    tokio::time::sleep(Duration::from_millis(600)).await;
    let fewer = mean(4).await;
    assert!(fewer < together - 2.0, "{together} with all, {fewer} with two");

    // By ear alone.
    page.run("document.activeElement.blur()").await;
    page.keys("h").await;
    page.until("nothing to see", "return document.body.innerText.includes('Pictures and numbers are hidden') && !document.querySelector('[data-row=before]')").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Show them").await;
    page.wait("[data-row=before]").await;
    // Browsers note every refused request; that of the letter is the only one.
    let noted = page.console().await;
    assert!(noted.len() == 1 && noted[0].contains("letter.txt") && noted[0].contains("415"), "{noted:?}");
    page.client.close().await.unwrap();
}

pub(super) fn base64(bytes: &[u8]) -> String {
    const DIGITS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut text = String::new();
    for three in bytes.chunks(3) {
        let word = three.iter().chain(&[0, 0]).take(3).fold(0u32, |word, b| word << 8 | u32::from(*b));
        for k in 0..4 {
            let digit = DIGITS[(word >> (18 - 6 * k) & 63) as usize] as char;
            text.push(if k <= three.len() { digit } else { '=' });
        }
    }
    text
}
