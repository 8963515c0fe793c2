//! A machine that is too slow for everything that runs side by side: only what is heard runs then, and the page says so.

use serde_json::{Value, json};

use crate::browser::Driver;
use crate::common::{self, Serve};
use crate::{TAP, heard_dbfs};

#[tokio::test(flavor = "multi_thread")]
async fn a_slow_machine_plays_what_is_heard_and_says_so() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.run(TAP).await;
    // Nine snapshots of twelve limiters each, of which any machine can run one, but not all.
    let limiter =
        |threshold: f64| json!({"effect": "limiter", "params": {"ceiling_db": threshold, "rounding": "on"}});
    let path = |threshold: f64| json!({"stages": vec![limiter(threshold); 12]});
    let snapshots: Vec<Value> = (0..9).map(|k| path(-10.0 - f64::from(k))).collect();
    let document = json!({"format": "clear-bend-bench", "version": 3, "listening": {"level_match": "off"},
        "stems": [{"source": {"kind": "sine", "params": {"seconds": 1.0, "level_dbfs": -3.0}}, "snapshots": snapshots}]});
    let (status, saved) = serve.ask(
        "POST",
        "/api/benches",
        Some(&json!({"name": "Too many", "document": document}).to_string()),
    );
    assert_eq!(status, 201, "{saved}");
    page.client.goto(&format!("{}/bench/{}", serve.address, saved["id"])).await.unwrap();
    page.run(TAP).await;
    page.settled().await;
    page.press("Play").await;
    page.until(
        "the notice",
        "return document.body.innerText.includes('too slow to run everything side by side')",
    )
    .await;
    // What is heard goes on, and so does another one that is chosen: a sine at the ceiling.
    assert!((heard_dbfs(&page).await + 13.0).abs() < 0.5, "{}", heard_dbfs(&page).await);
    page.keys("9").await;
    assert!((heard_dbfs(&page).await + 21.0).abs() < 0.5, "{}", heard_dbfs(&page).await);
    // Numbers that are being worked on are paler than they may be for reading.
    page.settled().await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
