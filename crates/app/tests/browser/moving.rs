//! Effects that move, on the page: their pictures, their sentences, walked through by hand, held, and heard.

use fantoccini::Locator;

use super::choose_source;
use super::dynamics::{add, show};
use super::explaining::{choose, typed};
use crate::browser::Driver;
use crate::common::{self, Serve};

#[tokio::test(flavor = "multi_thread")]
async fn a_flanger_is_seen_walked_through_and_held() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    choose_source(&page, "white-noise").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "flanger").await;
    page.group("Delay").await;
    page.set("Delay", "1").await;
    page.group("Motion").await;
    page.set("Depth", "0.5").await;
    page.settled().await;
    // Twenty notches of 1 ms, and where the lowest of them goes (docs/measures.md).
    let said = page.text("p[aria-live=polite]").await;
    assert!(said.contains("20 notches under 20 kHz, 1.00 kHz apart, the lowest at 500 Hz"), "{said}");
    assert!(said.contains("travels from 333 Hz to 1.00 kHz"), "{said}");
    show(&page, "Notches").await;
    let panel = "document.querySelector('[role=tabpanel]').textContent";
    page.until(
        "the count",
        &format!("return {panel}.includes('20 notches under 20 kHz, the lowest at 500 Hz')"),
    )
    .await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    // A quarter of the cycle on, by keys: the delay is at its longest, 1.5 ms.
    let slider = page.wait("[role=slider][aria-label='Place in the cycle']").await;
    for _ in 0..12 {
        slider.send_keys("\u{E014}").await.unwrap();
    }
    page.until(
        "a quarter on",
        &format!("return {panel}.includes('30 notches under 20 kHz, the lowest at 333 Hz')"),
    )
    .await;
    // Held at its top, that is what stays, and what is said.
    page.click(Locator::XPath("//*[@aria-label='Hold still']//label[normalize-space(.)='on']")).await;
    page.set("Held at", "90").await;
    page.settled().await;
    assert!(page.text("p[aria-live=polite]").await.contains("held still at 90\u{b0}"));
    page.until("held", &format!("return {panel}.includes('the lowest at 333 Hz') && !document.querySelector('[aria-label=\"Place in the cycle\"]')")).await;
    for name in ["Swing", "Sidebands"] {
        show(&page, name).await;
        page.until(name, "const c = document.querySelector('[role=tabpanel] canvas'); return (c?.toDataURL().length ?? 0) > 3000").await;
    }
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// What each new picture says of a flanger of 1 ms, beside a phaser: even spaces against uneven ones, on the very same noise.
#[tokio::test(flavor = "multi_thread")]
async fn a_flanger_is_looked_at_beside_a_phaser_and_linked_with_it() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    choose_source(&page, "white-noise").await;
    page.click(Locator::Css("[aria-label^='Remove Compressor']")).await;
    add(&page, "phaser").await;
    page.set("Rate", "2").await;
    add(&page, "flanger").await;
    page.group("Delay").await;
    page.set("Delay", "1").await;
    page.group("Motion").await;
    page.set("Depth", "0.5").await;
    page.set("Rate", "0.5").await;
    page.settled().await;
    // Each stage says what it does under its own name.
    let said = page.text("p[aria-live=polite]").await;
    assert!(said.contains("1 Phaser: ") && said.contains("2 Flanger: 20 notches"), "{said}");

    let panel = "document.querySelector('[role=tabpanel]')";
    let drawn =
        "[...document.querySelectorAll('[role=tabpanel] canvas')].every((c) => c.toDataURL().length > 3000)";
    for (name, words) in [
        ("Traces", "One cycle: noise through the stage"),
        ("Delay and pitch", "Pitch that follows from it, cents"),
        ("Envelope", "at the rate, 0.50 Hz"),
        ("Held wave", "no pitch: 20 ms"),
        ("Sidebands", "predicted"),
    ] {
        show(&page, name).await;
        page.until(name, &format!("return {panel}.textContent.includes('{words}') && {drawn}")).await;
        assert_eq!(page.axe().await, Vec::<String>::new(), "{name}");
    }
    // As many notches as the formula says are found in the noise, but for a few at the edges.
    show(&page, "Traces").await;
    let counted = format!("{panel}.textContent.match(/found \\((\\d+) of (\\d+)\\)/)");
    page.until(
        "the notches found",
        &format!("const m = {counted}; return m && m[2] > 1000 && m[1] > 0.95 * m[2]"),
    )
    .await;

    // Beside it, the phaser: two notches in every column.
    choose(&page, "Beside this picture", "stage 0").await;
    let theirs = "document.querySelector('[aria-label=\"Beside: 1 Phaser, alone\"]')";
    page.until("the phaser beside", &format!("return {theirs}?.textContent.includes('of 192)') && {drawn}"))
        .await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    show(&page, "Notches").await;
    page.until(
        "both",
        &format!("return {theirs}?.textContent.includes('2 notches under 20 kHz') && {drawn}"),
    )
    .await;
    page.picture("notches").await;
    show(&page, "Traces").await;

    // Linked, the phaser takes the rate, and starts move together; one undo takes both back.
    page.click(Locator::XPath("//label[contains(., 'Linked with 1 Phaser')]")).await;
    page.group("Oscillator").await;
    page.set("Start", "90").await;
    page.settled().await;
    page.click(Locator::XPath("//button[.='1 Phaser']")).await;
    page.group("Oscillator").await;
    assert_eq!(typed(&page, "Start").await, "90\u{b0}");
    page.group("Motion").await;
    assert_eq!(typed(&page, "Rate").await, "0.50 Hz");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
