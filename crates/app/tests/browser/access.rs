//! Every state of the page, for those who hear it read out, who see it large, dark or on a phone; and letters that can be read.

use std::time::Duration;

use super::browser::{Driver, Page};
use super::common::{self, Serve};
use super::equaliser::enter;
use fantoccini::Locator;

const COVERED: &str = include_str!("../scripts/covered.js");

/// Presses a button by its name or its label, wherever it is scrolled to.
async fn push(page: &Page, name: &str) {
    let button = format!("//button[normalize-space(.)='{name}' or @aria-label='{name}']");
    let found = page.client.wait().for_element(Locator::XPath(&button)).await.unwrap();
    page.client.execute("arguments[0].click()", vec![serde_json::to_value(found).unwrap()]).await.unwrap();
}

/// Opens something by its name or its label, looks at it, and closes it with Esc.
async fn door(page: &Page, state: &str, name: &str) {
    push(page, name).await;
    tokio::time::sleep(Duration::from_millis(400)).await;
    if state == "light" && ["Tracks", "Files"].contains(&name) {
        page.picture(&name.to_lowercase()).await;
    }
    assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, {name}");
    page.keys("\u{E00C}").await;
    tokio::time::sleep(Duration::from_millis(250)).await;
}

/// Not one finding of axe-core, of any weight: light and dark, on a phone, at 200 %; the bench, every drawer, dialog and menu, a fan, the
/// guided order, an equaliser with its lists.
#[tokio::test(flavor = "multi_thread")]
async fn no_state_has_a_finding() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start_looking().await);
    for (state, width, height, dots) in
        [("light", 1280, 800, 1), ("dark", 1280, 800, 1), ("phone", 390, 844, 1), ("zoomed", 640, 400, 2)]
    {
        let page = driver.open(&serve.address, width, height).await;
        page.resize(width, height, dots).await;
        page.settled().await;
        if state == "dark" {
            page.click(Locator::Css("button[aria-label='Dark page']")).await;
        }
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}");
        page.click(Locator::Css("button[aria-label='Keep as a new snapshot']")).await;
        page.settled().await;
        if state == "light" {
            // All else is the same: what does as much as the first snapshot stands where it stands there.
            let value = "parseFloat(document.querySelector(\"input[aria-label='Threshold, typed value']\").value.replace('\u{2212}', '-'))";
            let there = page.run(&format!("return {value}")).await;
            enter(&page, "Threshold, typed value", "-40").await;
            page.settled().await;
            push(&page, "As much as 1").await;
            page.until(
                "as much as in the other snapshot",
                &format!("return Math.abs({value} - ({there})) < 0.3"),
            )
            .await;
        }
        // At 200 % a page of 1280 px has the layout of a narrow one.
        let doors = ["Benches", "Tracks", "Files", "Keys", "More ways to save", "Compare"];
        for name in if state == "zoomed" { &doors[..1] } else { &doors[..] } {
            door(&page, state, name).await;
        }
        push(&page, "Compare").await;
        page.click(Locator::XPath("//*[@role='menuitem'][starts-with(normalize-space(.),'In what')]")).await;
        tokio::time::sleep(Duration::from_millis(400)).await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, differences");
        page.keys("\u{E00C}").await;
        push(&page, "Explain in order").await;
        page.settled().await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, in order");
        push(&page, "Open the fan").await;
        page.settled().await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, fan");
        page.wait("select[aria-label='Add a stage']").await.select_by_label("Equaliser").await.unwrap();
        page.settled().await;
        push(&page, "Find resonances").await;
        page.wait("[aria-label^='Listen to ']").await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, resonances");
        for name in ["Own map", "Spectra"] {
            door(&page, state, name).await;
        }
        push(&page, "Add band").await;
        page.settled().await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{state}, a band");
        page.client.clone().close().await.unwrap();
    }
}

/// No letters of any picture of any effect lie over others, in the usual size and in the large one; and a picture has 320 px or more
/// of an 800 px page.
#[tokio::test(flavor = "multi_thread")]
async fn letters_do_not_cover_each_other() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start_looking().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    // What no font has is a mark as wide as that of the font that comes first, and not another one's box.
    let wide = page.run(
        "const span = document.body.appendChild(document.createElement('span'));
         span.style.fontSize = '100px'; span.textContent = '\\u{10ABCD}';
         const { width } = span.getBoundingClientRect(); span.remove(); return Math.round(width)",
    );
    assert_eq!(wide.await, 42);
    let effects = page
        .run("return [...document.querySelectorAll(\"select[aria-label='Add a stage'] option\")].slice(1).map(o => o.textContent)")
        .await;
    let effects: Vec<String> = serde_json::from_value(effects).unwrap();
    assert!(effects.len() >= 15, "{effects:?}");
    let mut seen = std::collections::BTreeSet::new();
    let large = "button[aria-label='Large picture']";
    for effect in &effects {
        page.wait("select[aria-label='Add a stage']").await.select_by_label(effect).await.unwrap();
        page.settled().await;
        for size in ["usual", "large"] {
            let tabs =
                page.run("return document.querySelectorAll('[aria-label=Pictures] [role=tab]').length").await;
            for tab in 0..tabs.as_u64().unwrap() {
                let tab = format!("document.querySelectorAll('[aria-label=Pictures] [role=tab]')[{tab}]");
                let name = page.run(&format!("return {tab}.textContent")).await.to_string();
                // One picture of a kind is enough for the large one.
                if size == "large" && !seen.insert(name.clone()) {
                    continue;
                }
                page.run(&format!("{tab}.click()")).await;
                page.drawn().await;
                let covered = page.run(COVERED).await;
                assert_eq!(covered, serde_json::json!([]), "{effect}, {name}, {size}");
                let height = page.run("return document.querySelector('[role=tabpanel]').clientHeight").await;
                let least = if size == "large" { 360 } else { 320 };
                assert!(height.as_u64().unwrap() >= least, "{effect}, {name}, {size}: {height}");
            }
            page.click(Locator::Css(large)).await;
        }
        page.click(Locator::Css(&format!("button[aria-label='Remove {effect}, stage 2']"))).await;
        page.settled().await;
    }
    page.client.close().await.unwrap();
}
