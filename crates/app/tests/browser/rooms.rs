//! A reverb on the page: its pictures, its numbers and sentences, its bends and a fan, and what is heard of it.

use fantoccini::Locator;

use super::dynamics::{add, show};
use super::explaining::choose;
use super::{TAP, choose_source, hear, heard_dbfs};
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

const PICTURES: [&str; 9] = [
    "Decay",
    "Decay by octave",
    "Response",
    "First 200 ms",
    "Falling spectrum",
    "Falling, over time",
    "Under the next hit",
    "Density",
    "Left to right",
];

async fn sentences(page: &Page) -> String {
    page.text("p[aria-live=polite]").await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reverb_is_seen_measured_and_heard() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    page.settled().await;
    choose_source(&page, "slip-hits").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "reverb").await;

    // Every picture is drawn, and can be read by keys.
    for name in PICTURES {
        show(&page, name).await;
        // An empty canvas makes a picture of some hundred letters.
        let drawn = "const c = document.querySelector('[role=tabpanel] canvas'); return (c?.toDataURL().length ?? 0) > 4000";
        page.until(name, drawn).await;
        if name == "Decay" {
            let bends = "return document.querySelectorAll('svg[aria-label^=\"Bend of\"]').length >= 6";
            page.until("all bends of the group", bends).await;
            page.until("them anew", "return !document.querySelector('[data-stale-bend]')").await;
            // For the picture, with all their points.
            tokio::time::sleep(std::time::Duration::from_secs(3)).await;
            page.picture("decay").await;
            assert_eq!(page.axe().await, Vec::<String>::new());
        }
        if name == "Under the next hit" {
            page.until("how long", "return /heard for \\d+ % of the time/.test(document.querySelector('[role=tabpanel]').textContent)").await;
        }
    }

    // What is said and listed is what is set, within what one response scatters.
    show(&page, "Decay by octave").await;
    page.set("Highs\u{2019} decay", "100").await;
    page.set("Decay", "2.4").await;
    page.settled().await;
    let said = sentences(&page).await;
    assert!(said.contains("falls by 60 dB in") && said.contains("as from a wall"), "{said}");
    page.run("document.querySelector('details[aria-label=Room]').open = true").await;
    let t30 = page
        .run("return [...document.querySelectorAll('details[aria-label=Room] dl > div')].find(d => d.firstChild.textContent === 'T30').lastChild.textContent")
        .await;
    let t30 = t30.as_str().unwrap();
    // Beside it stands from which change on it is heard to be another one.
    assert!(t30.contains("heard from \u{b1}0.12 s"), "{t30}");
    let t30: f64 = t30.split(' ').next().unwrap().parse().unwrap();
    assert!((t30 / 2.4 - 1.0).abs() < 0.05, "{t30} s for 2.4 s");

    // A fan is drawn in the picture of the decay, and listed.
    show(&page, "Decay").await;
    page.click(Locator::XPath("//button[normalize-space(.)='Highs\u{2019} decay' and @aria-expanded]")).await;
    page.settled().await;
    page.press("Open the fan").await;
    page.until("the fan", "return document.querySelectorAll('[data-row=fan]').length === 5").await;
    page.until("its lines", "return document.body.textContent.includes('fan: light to dark')").await;
    page.press("Close the fan").await;
    assert_eq!(page.run("return document.activeElement.textContent").await, "Open the fan");

    // With the mix at 100 % a held tone is heard by its reverb alone, and goes on when the room is frozen.
    choose_source(&page, "sine").await;
    page.set("Mix", "100").await;
    page.settled().await;
    page.press("Play").await;
    hear(&page, "After").await;
    let sounding = heard_dbfs(&page).await;
    assert!(sounding > -60.0, "{sounding}");
    page.group("Late").await;
    page.click(Locator::XPath("//*[@aria-label='Freeze']//label[normalize-space(.)='on']")).await;
    page.settled().await;
    let frozen = heard_dbfs(&page).await;
    assert!((frozen - sounding).abs() < 12.0, "{sounding} to {frozen}");
    assert!(sentences(&page).await.contains("frozen"));
    page.group("Room").await;
    page.wait("input[aria-label='Size, typed value']").await;
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// The tempo belongs to the bench: moved in one stage it moves in all, it comes with a source that has one, and one undo takes
/// it back everywhere.
#[tokio::test(flavor = "multi_thread")]
async fn the_bench_has_one_tempo() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    add(&page, "reverb").await;
    add(&page, "reverb").await;
    // The compressor of the fresh bench stands before them.
    let reverb = |n: usize| format!("//div[@data-point]//button[normalize-space(.)='{} Reverb']", n + 1);
    let tempo = async |n: usize| {
        page.click(Locator::XPath(&reverb(n))).await;
        page.group("Pre-delay").await;
        let field = page.wait("input[aria-label='Tempo, typed value']").await;
        field.prop("value").await.unwrap().unwrap()
    };
    assert_eq!(tempo(1).await, "120 bpm");
    choose(&page, "Pre-delay as a note", "6").await;
    page.set("Tempo", "96").await;
    page.settled().await;
    // A sixteenth at 96 beats per minute.
    let said = sentences(&page).await;
    assert!(said.contains("156 ms"), "{said}");
    assert_eq!(tempo(2).await, "96 bpm");
    page.press("Undo").await;
    assert_eq!((tempo(2).await, tempo(1).await), ("120 bpm".to_owned(), "120 bpm".to_owned()));
    // The source brings its own, and a new stage has it.
    page.set("Tempo", "80").await;
    page.settled().await;
    choose_source(&page, "slip-bass").await;
    assert_eq!(tempo(1).await, "120 bpm");
    add(&page, "reverb").await;
    assert_eq!(tempo(3).await, "120 bpm");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
