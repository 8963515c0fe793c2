//! Shared paths in the page: shared, sent to, heard, compared, kept.

use std::time::Duration;

use fantoccini::Locator;
use serde_json::json;

use super::common::{self, Serve};
use crate::browser::{Driver, Page};
use crate::equaliser::enter;
use crate::keeping::open_bench;
use crate::{TAP, holds_dbfs};

/// The levels of what goes there and comes back.
async fn ways(page: &Page) -> Vec<String> {
    let found =
        page.run("return [...document.querySelectorAll('[data-way] dd')].map(e => e.textContent)").await;
    serde_json::from_value(found).unwrap()
}

async fn choose_stem(page: &Page, name: &str) {
    let row = format!("//section[@aria-label='Stems']//button[starts-with(normalize-space(.), '{name}')]");
    page.click(Locator::XPath(&row)).await;
    page.settled().await;
}

/// An insert becomes a room that all share: nothing is heard of that until another stem sends to it too. Said where what is sent comes
/// back dry, one for all beside an insert each, and everything is kept.
#[tokio::test(flavor = "multi_thread")]
async fn an_insert_is_shared_sent_to_heard_compared_and_kept() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let noise = |seed: u32| json!({"kind": "white-noise", "params": {"level_dbfs": -40, "seconds": 1.0, "seed": seed}});
    let room = json!({"effect": "reverb", "mix": 0.5, "params": {"decay_s": 0.5}});
    let document = json!({"format": "clear-bend-bench", "version": 3, "listening": {"level_match": "off", "all_stems": true},
        "stems": [{"source": noise(1), "snapshots": [{"stages": [room]}]}, {"source": noise(2), "snapshots": [{"stages": []}]}],
        "view": {"spotlight": null}});
    let (status, saved) =
        serve.ask("POST", "/api/benches", Some(&json!({"name": "Quay", "document": document}).to_string()));
    assert_eq!(status, 201, "{saved}");
    let address = format!("/api/benches/{}", saved["id"]);
    page.client.goto(&format!("{}/bench/{}", serve.address, saved["id"])).await.unwrap();
    page.settled().await;
    let sum = "tr[data-row=sum-after] td:nth-of-type(3)";
    page.wait(sum).await;
    let as_insert = page.text(sum).await;
    page.run(TAP).await;
    page.press("Play").await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    let heard_as_insert = holds_dbfs(&page).await;

    page.click(Locator::Css("button[aria-label='Share Reverb']")).await;
    page.settled().await;
    let said = || page.text("section[aria-label='Stems']");
    assert!(said().await.contains("Shared 1: Reverb"));
    assert_eq!(page.text(sum).await, as_insert);
    let heard = holds_dbfs(&page).await;
    assert!((heard - heard_as_insert).abs() < 0.4, "{heard_as_insert} as an insert, {heard} sent");
    // From the side of the stem, its way out and back stands on the level line.
    choose_stem(&page, "White noise").await;
    page.wait("[data-way]").await;
    assert_eq!(page.text(sum).await, as_insert);
    let heard = holds_dbfs(&page).await;
    assert!((heard - heard_as_insert).abs() < 0.4, "{heard_as_insert} as an insert, {heard} sent");
    assert_eq!(ways(&page).await.len(), 2);
    assert_eq!(page.axe().await, Vec::<String>::new());

    // The send by hand: what comes back is as much less.
    let back = |ways: Vec<String>| {
        ways[1].replace('\u{2212}', "-").split(' ').next().unwrap().parse::<f64>().unwrap()
    };
    let before = back(ways(&page).await);
    enter(&page, "Send of White noise to Shared 1: Reverb, typed value", "-20").await;
    page.settled().await;
    let after = back(ways(&page).await);
    assert!((before - after - 20.0).abs() < 0.15, "{before}, {after}");
    page.keys("\u{E009}z\u{E000}").await;
    page.settled().await;
    assert!((back(ways(&page).await) - before).abs() < 0.05);

    // The other sends as well, and both are compared with inserts.
    page.click(Locator::XPath("(//button[@aria-label='Send to Shared 1: Reverb: White noise'])[1]")).await;
    page.settled().await;
    page.click(Locator::Css("section[aria-label=Stems] details summary")).await;
    page.until("compared", "return document.querySelector('section[aria-label=Stems] details').textContent.includes('once instead of 2 times')").await;
    assert!(said().await.contains("the sum is the same"));
    let shared = holds_dbfs(&page).await;
    page.click(Locator::XPath("//label[normalize-space(.)='An insert each']")).await;
    page.settled().await;
    tokio::time::sleep(Duration::from_millis(800)).await;
    let inserts = holds_dbfs(&page).await;
    assert!((shared - inserts).abs() < 0.4, "{shared} shared, {inserts} as inserts");
    page.click(Locator::XPath("//label[normalize-space(.)='One for all']")).await;

    // A room that is not all wet is said, and set so.
    choose_stem(&page, "Shared 1").await;
    enter(&page, "Mix, typed value", "40 %").await;
    page.settled().await;
    page.until("the advice", "return document.querySelector('[aria-label=Picture]').textContent.includes('On a send the mix belongs at 100 % wet')").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Set the reverb to 100 % wet").await;
    page.settled().await;
    page.until(
        "no advice",
        "return !document.querySelector('[aria-label=Picture]').textContent.includes('On a send')",
    )
    .await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    let kept = serve.ask("GET", &address, None).1["document"].clone();
    assert_eq!(kept["stems"][2]["source"]["kind"], "sent");
    assert_eq!(
        (&kept["stems"][0]["sends"][0]["to"], &kept["stems"][1]["sends"][0]["to"]),
        (&json!(2), &json!(2))
    );
    // Without the shared path nobody sends any more.
    page.click(Locator::Css("button[aria-label='Remove Shared 1: Reverb']")).await;
    page.settled().await;
    assert!(!said().await.contains("Shared 1"));
    // The shipped one: seen from a stem, so that its way out and back is in view.
    open_bench(&page, "Low water in one room").await;
    page.settled().await;
    choose_stem(&page, "Rigging wires 1").await;
    page.wait("[data-way]").await;
    page.run("document.querySelector('[aria-label=\"Path and level\"]').scrollTop = 0").await;
    page.picture("sends").await;
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
