//! The equaliser on the page: bands by hand, by keys and by typing, its pictures, and its curve against the browser's
//! own filter.

use fantoccini::Locator;
use serde_json::Value;

use super::dynamics::{add, drag, show};
use super::explaining::{choose, typed};
use super::{TAP, heard_dbfs};
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

/// A number off a text with its unit.
fn number(text: &Value) -> f64 {
    let text = text.as_str().unwrap().replace('\u{2212}', "-");
    let kilo = if text.contains("kHz") { 1000.0 } else { 1.0 };
    kilo * text.split(' ').next().unwrap().parse::<f64>().unwrap()
}

async fn field(page: &Page, name: &str) -> Value {
    page.run(&format!("return document.querySelector('input[aria-label=\"{name}\"]').value")).await
}

/// Types into a field by its name.
pub async fn enter(page: &Page, name: &str, value: &str) {
    let field = page.wait(&format!("input[aria-label='{name}']")).await;
    field.click().await.unwrap();
    field.send_keys(&format!("{value}\u{E007}")).await.unwrap();
}

/// The first resonance of the list, and how much of the power that goes to the loudspeakers lies within half an octave of it.
const FIRST: &str = "[aria-label^='Listen to ']";

async fn share_around(page: &Page, button: &str) -> f64 {
    tokio::time::sleep(std::time::Duration::from_millis(1100)).await;
    let script = format!(
        "const named = document.querySelector(\"{button}\").getAttribute('aria-label').replace('Listen to ', '');
         const hz = parseFloat(named) * (named.includes('kHz') ? 1000 : 1);
         window.tap.smoothingTimeConstant = 0;
         const levels = new Float32Array(window.tap.frequencyBinCount);
         window.tap.getFloatFrequencyData(levels);
         const perBin = window.tap.context.sampleRate / window.tap.fftSize;
         const power = (from, to) => levels.reduce((sum, db, i) => sum + (i * perBin >= from && i * perBin < to ? 10 ** (db / 10) : 0), 0);
         return power(hz / Math.SQRT2, hz * Math.SQRT2) / power(10, 24000)"
    );
    page.run(&script).await.as_f64().unwrap_or(f64::NAN)
}

#[tokio::test(flavor = "multi_thread")]
async fn bands_are_added_dragged_typed_heard_and_seen() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    page.click(Locator::Css("[aria-label='Remove Compressor']")).await;
    page.settled().await;
    add(&page, "equaliser").await;
    page.until("that nothing is there", "return document.body.innerText.includes('has no band')").await;

    // New ones stand where there is room: no handle hides another.
    for _ in 0..6 {
        page.press("Add band").await;
    }
    let nearest = "const x = [...document.querySelectorAll(\"[role=slider][aria-label$='in the picture']\")]
        .map(o => o.getBoundingClientRect().left).sort((a, b) => a - b);
        return [x.length, Math.min(...x.slice(1).map((at, i) => at - x[i]))]";
    page.until("six of them", &format!("return (() => {{ {nearest} }})()[0] === 6")).await;
    let apart = page.run(nearest).await[1].as_f64().unwrap();
    assert!(apart > 14.0, "{apart} pixels");
    for _ in 0..6 {
        page.press("Undo").await;
    }
    // A band that goes leaves the focus with what is nearest.
    for _ in 0..3 {
        page.press("Add band").await;
    }
    page.press("Remove band 3").await;
    let focused = |on: &str| {
        let named = "document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent";
        format!("return ({named}) === '{on}'")
    };
    page.until("the focus", &focused("All bands")).await;
    page.wait("[role=slider][aria-label='Band 2, bell in the picture']")
        .await
        .send_keys("\u{E017}")
        .await
        .unwrap();
    page.until("the focus on the next one", &focused("Band 1, bell in the picture")).await;
    page.keys("\u{E017}").await;
    page.until("that nothing is there", "return document.body.innerText.includes('has no band')").await;

    // By hand: sideways and up, with the picture drawn from the core's formula.
    page.press("Add band").await;
    page.settled().await;
    let handle = "[role=slider][aria-label='Band 1, bell in the picture']";
    drag(&page, handle, (60.0, -40.0)).await;
    page.settled().await;
    let (freq, gain) = (number(&typed(&page, "Frequency").await), number(&typed(&page, "Gain").await));
    assert!(freq > 1500.0 && freq < 4000.0 && gain > 6.0, "{freq} Hz, {gain} dB");
    // By keys: up is gain, page up is Q; Shift is finer.
    let q = number(&typed(&page, "Q").await);
    page.wait(handle).await.send_keys("\u{E013}\u{E00E}").await.unwrap();
    page.settled().await;
    assert!(number(&typed(&page, "Gain").await) > gain && number(&typed(&page, "Q").await) > q);
    // By typing: a note, a width in octaves.
    enter(&page, "Frequency as a note", "A5").await;
    enter(&page, "Q in octaves", "1").await;
    page.settled().await;
    assert_eq!(typed(&page, "Frequency").await, "880 Hz");
    assert_eq!(field(&page, "Frequency as a note").await, "A5");
    assert_eq!(typed(&page, "Q").await, "1.41");

    // What is heard: a tone in the middle of the band comes out louder by its gain.
    choose(&page, "Level match", "off").await;
    super::choose_source(&page, "sine").await;
    // The source has a level and a frequency of its own, which stand first.
    page.set("Level", "-30").await;
    page.set("Frequency", "880").await;
    page.set("Gain", "9").await;
    page.settled().await;
    page.press("Play").await;
    tokio::time::sleep(std::time::Duration::from_millis(1500)).await;
    let heard = heard_dbfs(&page).await;
    assert!((heard - (-30.0 - 3.01 + 9.0)).abs() < 0.3, "{heard}");
    // The spectrum that is drawn live is that of what plays, and the picture keeps up.
    page.run("performance.clearMeasures()").await;
    drag(&page, handle, (30.0, 20.0)).await;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    let frames = page.run("return performance.getEntriesByName('clear-bend spectrum').length").await;
    assert!(frames.as_u64().unwrap() > 10, "{frames} frames");
    page.press("Pause").await;

    // Every picture has something to say.
    super::choose_source(&page, "slip-bass").await;
    page.press("All bands").await;
    choose(&page, "Starting point", "Room for the bass").await;
    page.settled().await;
    page.picture("curve").await;
    for (name, says) in [
        ("Phase", "Group delay"),
        ("Ringing", "ahead: nothing"),
        ("Top end", "plain formula (dotted): up to"),
        ("Octaves", "RMS level of all"),
        ("Spectrogram", "Before: frequency, Hz"),
    ] {
        show(&page, name).await;
        page.until(
            name,
            &format!("return document.querySelector('[role=tabpanel]').textContent.includes('{says}')"),
        )
        .await;
        if name == "Spectrogram" {
            page.picture("spectrogram").await;
        }
    }
    choose(&page, "Starting point", "Pair: the airy part").await;
    show(&page, "Top end").await;
    page.settled().await;
    choose(&page, "Starting point", "Room for the bass").await;
    page.settled().await;
    // The level is made up exactly, and resonances are heard alone and cut.
    page.click(Locator::XPath("//button[starts-with(normalize-space(.),'As loud as before: ')]")).await;
    page.settled().await;
    page.until("the level that is made up", "return [...document.querySelectorAll('button')].some(b => b.textContent === 'As loud as before' && b.disabled)").await;
    super::choose_source(&page, "boatyard-loop").await;
    page.press("Find resonances").await;
    let first = "[role=group][aria-label=Resonances] tbody tr button";
    page.wait(first).await;
    let bands =
        "return document.querySelectorAll('[role=group][aria-label=Bands] button[aria-label^=Band]').length";
    let before = page.run(bands).await.as_u64().unwrap();
    page.click(Locator::Css("[aria-label^='Cut ']")).await;
    page.settled().await;
    assert_eq!(page.run(bands).await.as_u64().unwrap(), before + 1);
    // The list stays where it is. Listening is no change of the bench: no band comes, and there is nothing to undo.
    page.wait(first).await;
    let steps =
        "return [...document.querySelectorAll('button')].find(b => b.textContent.trim() === 'Undo').title";
    let undo = page.run(steps).await;
    page.run(super::TAP).await;
    page.press("Play").await;
    let whole = share_around(&page, FIRST).await;
    page.click(Locator::Css("[aria-label^='Listen to ']")).await;
    page.wait("[aria-label^='Listen to '][aria-pressed=true]").await;
    let alone = share_around(&page, FIRST).await;
    assert!(alone > 0.8 && whole < 0.6, "{alone} alone, {whole} in all");
    assert_eq!(page.run(bands).await.as_u64().unwrap(), before + 1);
    assert_eq!(page.run(steps).await, undo);
    page.settled().await;
    show(&page, "Curve").await;
    page.run("document.querySelector('section[aria-label^=Parameters]').scrollTop = 0").await;
    page.picture("resonances").await;
    // A reference is drawn among the spectra, as loud as it is heard.
    let reference = Locator::XPath("//select[option[normalize-space(.)='None']]");
    let choice = page.client.wait().for_element(reference).await.unwrap();
    let dotted = "document.querySelector('[role=tabpanel]').textContent.includes('reference: dotted')";
    choice.select_by_value("slip-keys").await.unwrap();
    page.until("the reference", &format!("return {dotted}")).await;
    choice.select_by_value("").await.unwrap();
    page.until("no reference", &format!("return !{dotted}")).await;
    page.press("Hear everything again").await;
    let again = share_around(&page, FIRST).await;
    assert!(again < 0.6, "{again} again");
    page.press("Pause").await;
    page.settled().await;
    // Two parts are held against each other.
    super::choose_source(&page, "slip-wires-1").await;
    show(&page, "Two parts").await;
    page.until("that it is alone", "return document.body.innerText.includes('This stem is alone')").await;
    choose(&page, "Add a stem", "slip-wires-2").await;
    page.settled().await;
    page.until("what is hidden", "return document.body.innerText.includes('was hidden by the other')").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.click(Locator::Css("[aria-label^='Remove Rigging wires 2']")).await;
    page.settled().await;
    // Linear phase rings before the sound, comes late, and says so.
    page.run("[...document.querySelectorAll('[role=radiogroup][aria-label=Phase] input')][1].click()").await;
    page.settled().await;
    show(&page, "Ringing").await;
    page.until(
        "ringing before",
        "return document.querySelector('[role=tabpanel]').textContent.includes('192 ms late')",
    )
    .await;
    page.until("the delay in words", "return document.body.innerText.includes('come 192 ms late')").await;
    show(&page, "Curve").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Undo").await;
    page.resize(390, 844, 2).await;
    page.settled().await;
    let wide = "return document.documentElement.scrollWidth <= document.documentElement.clientWidth";
    assert_eq!(page.run(wide).await, true, "nothing scrolls sideways at 390 pixels");

    let differences = page.run_async(include_str!("../scripts/biquad_curves.js"), vec![]).await;
    println!("browser: equaliser against BiquadFilterNode.getFrequencyResponse, dB: {differences}");
    let differences = differences.as_object().expect("differences");
    assert_eq!(differences.len(), 9);
    assert!(differences.values().all(|apart| apart.as_f64().unwrap() < 0.02), "{differences:?}");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
