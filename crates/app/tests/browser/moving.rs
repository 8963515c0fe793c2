//! Effects that move, on the page: their pictures, their sentences, walked through by hand, held, and heard.

use fantoccini::Locator;

use super::choose_source;
use super::dynamics::{add, show};
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
    page.picture("notches").await;
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
