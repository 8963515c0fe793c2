//! How pictures are looked at: own ear maps, a picture kept in view, the large picture, an effect put back afresh.

use fantoccini::Locator;

use super::dynamics::{add, drag, show};
use super::equaliser::enter;
use super::explaining::{choose, typed};
use crate::browser::{Driver, Page};
use crate::common::{self, Serve};

/// The words of the ear map that is drawn.
async fn words(page: &Page) -> String {
    page.run("return [...document.querySelectorAll('svg[data-picture=Curve] g > rect[class*=region] + text')].map(t => t.textContent).join()")
        .await
        .as_str()
        .unwrap()
        .to_owned()
}

async fn says(page: &Page, what: &str) {
    page.until(what, &format!("return document.body.innerText.includes('{what}')")).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn own_ear_maps_are_made_edited_kept_and_taken_back() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    add(&page, "equaliser").await;
    assert_eq!(words(&page).await, "");
    choose(&page, "Ear map", "Voice").await;
    assert_eq!(words(&page).await.split(',').filter(|word| *word == "chest").count(), 1);

    // From a shipped map to an own one: what is typed is drawn at once, regions lie over each other, undo goes back.
    page.press("Own map").await;
    page.wait("input[aria-label='Name of region 2']").await;
    page.run("document.querySelector(\"input[aria-label='Name of region 2']\").select()").await;
    page.type_into("input[aria-label='Name of region 2']", "breastbone").await;
    enter(&page, "Region 2 to, typed value", "400").await;
    assert!(words(&page).await.contains("breastbone"));
    page.press("Undo in map").await;
    page.until("undo", "return document.querySelector(\"input[aria-label='Region 2 to, typed value']\").value.startsWith('160')").await;
    enter(&page, "Region 2 to, typed value", "400").await;
    // A region without a name is refused by the core's rule, and nothing is saved.
    page.press("Add region").await;
    page.press("Save map").await;
    says(&page, "Not saved: document.regions[8].name is empty; accepted: 1 to 40 characters on one line.")
        .await;
    assert_eq!(serve.ask("GET", "/api/ear-maps", None).1.as_array().unwrap().len(), 0);
    page.type_into("input[aria-label='Name of region 9']", "dust").await;
    page.picture("ear-map").await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Save map").await;
    page.until("the own map", "return document.querySelector('select[aria-label=\"Ear map\"]').selectedOptions[0].text === 'Voice, mine'").await;
    assert!(words(&page).await.contains("dust"));

    // It is there after a reload, and can be edited; what somebody else has saved meanwhile is not overwritten.
    page.client.refresh().await.unwrap();
    page.wait("select[aria-label='Ear map'] option[value]").await;
    page.settled().await;
    page.until("the own map, still chosen", "return document.querySelector('select[aria-label=\"Ear map\"]').selectedOptions[0]?.text === 'Voice, mine'").await;
    page.until("the own map in the list", "return document.body.innerHTML.includes('Voice, mine')").await;
    let (_, list) = serve.ask("GET", "/api/ear-maps", None);
    let id = list[0]["id"].as_i64().unwrap();
    choose(&page, "Ear map", &id.to_string()).await;
    page.until("the words", "return document.body.innerHTML.includes('breastbone')").await;
    page.press("Edit map").await;
    let (_, saved) = serve.ask("GET", &format!("/api/ear-maps/{id}"), None);
    let theirs =
        serde_json::json!({"name": "Theirs", "revision": 1, "document": saved["document"]}).to_string();
    assert_eq!(serve.ask("PUT", &format!("/api/ear-maps/{id}"), Some(&theirs)).0, 200);
    page.click(Locator::Css("[aria-label='Remove region 9']")).await;
    page.press("Save map").await;
    says(&page, "Nothing is overwritten").await;
    page.press("Save mine as a new map").await;
    page.until(
        "both maps",
        "return document.querySelectorAll('select[aria-label=\"Ear map\"] optgroup option').length === 2",
    )
    .await;
    // Deleted, and taken back.
    page.press("Edit map").await;
    page.press("Delete map").await;
    says(&page, "is deleted").await;
    assert_eq!(serve.ask("GET", "/api/ear-maps", None).1.as_array().unwrap().len(), 1);
    page.press("Take back").await;
    page.until(
        "both maps again",
        "return document.querySelectorAll('select[aria-label=\"Ear map\"] optgroup option').length === 2",
    )
    .await;
    // The browser notes what was refused; nothing else is wrong.
    let refused = |line: &String| line.contains("status of 409") || line.contains("status of 422");
    assert_eq!(
        page.console().await.into_iter().filter(|line| !refused(line)).collect::<Vec<_>>(),
        Vec::<String>::new()
    );
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_picture_stays_in_view_grows_and_an_effect_begins_afresh() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    add(&page, "equaliser").await;
    page.press("Add band").await;
    page.settled().await;
    show(&page, "Curve").await;
    // The curve stays while the compressor is worked on, and its bands can still be taken hold of.
    page.click(Locator::Css("[aria-label='Keep this picture in view']")).await;
    page.press("1 Compressor").await;
    page.settled().await;
    let seen = "return document.querySelector('[role=tabpanel] svg[data-picture]').dataset.picture";
    assert_eq!(page.run(seen).await, "Curve");
    page.set("Threshold", "-30").await;
    page.settled().await;
    let before = page.text("p[aria-live=polite]").await;
    page.wait("[role=slider][aria-label='Band 1, bell in the picture']")
        .await
        .send_keys("\u{E013}\u{E013}")
        .await
        .unwrap();
    page.settled().await;
    assert_ne!(page.text("p[aria-live=polite]").await, before);
    assert_eq!(typed(&page, "Threshold").await, "\u{2212}30.0 dBFS");
    page.click(Locator::Css("[aria-label='In view: 2 Equaliser']")).await;
    page.settled().await;
    assert_eq!(page.run(seen).await, "Over time");

    // Large, by its key: the picture alone, with larger letters; and back.
    page.run("document.activeElement.blur()").await;
    let width =
        "return document.querySelector('[role=tabpanel] svg[data-picture]').getBoundingClientRect().width";
    let narrow = page.run(width).await.as_f64().unwrap();
    page.keys("l").await;
    page.settled().await;
    assert!(page.run(width).await.as_f64().unwrap() > narrow + 500.0);
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.click(Locator::Css("[aria-label='Large picture']")).await;
    page.settled().await;

    // The whole effect back to its defaults, in one step that can be undone.
    page.press("Defaults").await;
    page.settled().await;
    assert_eq!(typed(&page, "Threshold").await, "\u{2212}20.0 dBFS");
    page.press("Undo").await;
    page.settled().await;
    assert_eq!(typed(&page, "Threshold").await, "\u{2212}30.0 dBFS");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// Stages change places by dragging and by keys, which say what they do.
#[tokio::test(flavor = "multi_thread")]
async fn stages_are_ordered_by_hand_and_by_keys() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    add(&page, "gain").await;
    page.settled().await;
    let titles = "[...document.querySelectorAll('[aria-label=\"Path and level\"] button[aria-pressed]')].map(b => b.innerText)
        .filter(text => /^\\d /.test(text)).join()";
    let order = |expected: &str| format!("return {titles} === '{expected}'");
    let (first, other) = (order("1 Compressor,2 Gain"), order("1 Gain,2 Compressor"));
    page.until("two stages", &first).await;
    // Picked up with space, moved with an arrow, put down with space; what happens is said.
    let said = |what: &str| {
        let live = "[...document.querySelectorAll('[aria-live]')].map(e => e.textContent).join(' ')";
        format!("return {live}.includes('{what}')")
    };
    page.wait("[aria-label='Drag Gain, stage 2']").await.send_keys(" ").await.unwrap();
    page.until("being held", &said("Gain: place 2 of 2")).await;
    page.keys("\u{E013}").await;
    page.until("its place", &said("Gain: place 1 of 2")).await;
    page.keys(" ").await;
    page.until("the other order", &other).await;
    // Space has not begun to play, and one undo takes it back.
    assert_eq!(page.run("return document.body.innerText.includes('Pause')").await, false);
    // Numbers that are being measured anew are dimmed.
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Undo").await;
    page.until("the first order", &first).await;
    // With Alt and an arrow it moves, and again, since the focus goes with it.
    add(&page, "limiter").await;
    page.settled().await;
    page.run("[...document.querySelectorAll('button')].find(b => b.innerText === '3 Limiter').focus()").await;
    for (keys, expected) in [
        ("\u{E00A}\u{E013}\u{E000}", "1 Compressor,2 Limiter,3 Gain"),
        ("\u{E00A}\u{E013}\u{E000}", "1 Limiter,2 Compressor,3 Gain"),
        ("\u{E00A}\u{E015}\u{E000}", "1 Compressor,2 Limiter,3 Gain"),
    ] {
        page.keys(keys).await;
        page.until("the moved stage", &order(expected)).await;
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    page.click(Locator::Css("[aria-label^='Remove Limiter']")).await;
    page.until("two stages again", &first).await;
    // By hand, from one card over the other.
    page.run("[...document.querySelectorAll('button')].find(b => b.innerText === '2 Gain').id = 'held'")
        .await;
    drag(&page, "#held", (0.0, -200.0)).await;
    page.until("the other order", &other).await;
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
