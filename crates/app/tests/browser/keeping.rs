//! Nobody's work is written over by an answer that comes late, or by what was only shown.

use clear_bend_bench::BenchDocument;
use fantoccini::Locator;
use serde_json::{Value, json};

use super::common::{self, Serve};
use super::explaining::{base64, choose};
use crate::browser::{Driver, Page};

/// From now on, requests of this method wait so long before they leave.
async fn delay(page: &Page, method: &str, ms: u32) {
    page.run(&format!(
        "const later = () => new Promise((go) => setTimeout(go, {ms}));
         const fetches = window.fetch, sends = XMLHttpRequest.prototype.send, opens = XMLHttpRequest.prototype.open;
         window.fetch = async (address, how) => {{
           if (how?.method === '{method}') {{ await later(); window.sent = (window.sent ?? 0) + 1; }}
           return fetches(address, how);
         }};
         XMLHttpRequest.prototype.open = function (method, ...rest) {{ this.method = method; opens.call(this, method, ...rest); }};
         XMLHttpRequest.prototype.send = async function (body) {{ if (this.method === '{method}') await later(); sends.call(this, body); }};"
    ))
    .await;
}

pub async fn open_bench(page: &Page, name: &str) {
    page.press("Benches").await;
    page.press(name).await;
    let named = format!(
        "return document.querySelector('input[aria-label=\"Name of the bench\"]').value === {name:?}"
    );
    page.until(name, &named).await;
    page.settled().await;
}

async fn threshold(page: &Page) -> Value {
    page.run("return document.querySelector('input[aria-label=\"Threshold, typed value\"]').value").await
}

/// Two benches, saved under names.
fn save_two(serve: &Serve) -> [String; 2] {
    ["First", "Second"].map(|name| {
        let body = json!({"name": name, "document": BenchDocument::fresh()}).to_string();
        let (status, saved) = serve.ask("POST", "/api/benches", Some(&body));
        assert_eq!(status, 201, "{saved}");
        format!("/api/benches/{}", saved["id"])
    })
}

fn saved_threshold(serve: &Serve, address: &str) -> (Value, Value) {
    let (_, bench) = serve.ask("GET", address, None);
    let stage = &bench["document"]["stems"][0]["snapshots"][0]["stages"][0];
    (bench["name"].clone(), stage["params"]["threshold_db"].clone())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_late_answer_belongs_to_the_bench_that_asked() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let [first, second] = save_two(&serve);
    let page = driver.open(&serve.address, 1280, 800).await;

    // First is being saved while Second is opened and worked on.
    open_bench(&page, "First").await;
    page.set("Threshold", "-11").await;
    delay(&page, "PUT", 2500).await;
    page.press("Save").await;
    open_bench(&page, "Second").await;
    page.set("Threshold", "-22").await;
    page.until("the late answer", "return window.sent === 1").await;
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    assert_eq!(threshold(&page).await, "\u{2212}22.0 dBFS");
    assert!(page.text("header [role=status]").await.contains("Unsaved changes"));
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    assert_eq!(saved_threshold(&serve, &first), (json!("First"), json!(-11.0)));
    assert_eq!(saved_threshold(&serve, &second), (json!("Second"), json!(-22.0)));

    // What is changed while it is being saved stays changed, and unsaved.
    page.set("Threshold", "-23").await;
    page.press("Save").await;
    page.set("Threshold", "-24").await;
    page.until("the save", "return window.sent === 3").await;
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    assert_eq!(threshold(&page).await, "\u{2212}24.0 dBFS");
    assert_eq!(saved_threshold(&serve, &second).1, json!(-23.0));

    // A sound is on its way while First is opened: it is kept, and First is as it was.
    delay(&page, "POST", 1500).await;
    let tone = clear_bend_sound::Buffer::new(48_000, vec![vec![0.1; 48_000]]).unwrap();
    let bytes = clear_bend_media::write_wav(&tone).unwrap();
    let arguments = vec![json!("late.wav"), json!(base64(&bytes))];
    page.client.execute(include_str!("../scripts/drop_file.js"), arguments).await.unwrap();
    open_bench(&page, "First").await;
    page.until("what became of it", "return document.body.innerText.includes('is among your tracks')").await;
    let source = page.run("return document.querySelector('select[aria-label=Source]').value").await;
    assert_eq!(source, "boatyard-loop");
    assert!(page.text("header [role=status]").await.contains("Saved"));

    // A stem whose setting has changed is still found by all that measures it, also among others.
    choose(&page, "Source", "slip-bass").await;
    choose(&page, "Add a stem", "slip-drum").await;
    page.until("two stems", "return document.querySelectorAll('[aria-label^=Mute]').length === 2").await;
    page.settled().await;
    let other = Locator::Css("[aria-label=Stems] button[aria-pressed=false]:not([aria-label])");
    page.click(other).await;
    page.set("Tempo", "90").await;
    page.settled().await;
    page.click(other).await;
    page.settled().await;
    assert!(!page.text("body").await.contains("cannot be measured"));
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    page.client.refresh().await.unwrap();
    page.wait("[data-testid=match-gain] b").await;
    page.settled().await;
    assert!(!page.text("body").await.contains("cannot be measured"));
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn explaining_in_order_gives_back_to_where_it_began() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let [first, second] = save_two(&serve);
    let page = driver.open(&serve.address, 1280, 800).await;
    open_bench(&page, "First").await;
    page.set("Threshold", "-13").await;
    page.click(Locator::Css("[aria-label='Keep as a new snapshot']")).await;
    page.set("Threshold", "-17").await;

    // From snapshot 2 on; meanwhile snapshot 1 is looked at and worked on.
    page.press("Explain in order").await;
    page.press("Next parameter").await;
    assert_eq!(threshold(&page).await, "\u{2212}24.0 dBFS");
    page.keys("1").await;
    page.settled().await;
    assert_eq!(threshold(&page).await, "\u{2212}13.0 dBFS");
    page.set("Threshold", "-14").await;
    page.run("document.activeElement.blur()").await;
    page.keys("2").await;
    page.settled().await;
    page.press("To my settings").await;
    page.settled().await;
    assert_eq!(threshold(&page).await, "\u{2212}17.0 dBFS");
    page.run("document.activeElement.blur()").await;
    page.keys("1").await;
    page.settled().await;
    assert_eq!(threshold(&page).await, "\u{2212}14.0 dBFS");

    // A reload, and another bench, in the middle of it: one's own settings are what is kept.
    page.press("Explain in order").await;
    page.press("Next parameter").await;
    page.settled().await;
    page.client.refresh().await.unwrap();
    page.wait("[data-testid=match-gain] b").await;
    page.settled().await;
    assert_eq!(threshold(&page).await, "\u{2212}14.0 dBFS");
    page.press("Explain in order").await;
    open_bench(&page, "Second").await;
    assert!(page.text("header [role=status]").await.contains("Saved"));
    open_bench(&page, "First").await;
    assert_eq!(threshold(&page).await, "\u{2212}14.0 dBFS");
    // Saved in the middle of it: one's own settings are saved, and the order goes on.
    page.press("Explain in order").await;
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    assert_eq!(saved_threshold(&serve, &first), (json!("First"), json!(-14.0)));
    assert_ne!(threshold(&page).await, "\u{2212}14.0 dBFS");
    page.press("To my settings").await;
    assert_eq!(threshold(&page).await, "\u{2212}14.0 dBFS");
    assert_eq!(saved_threshold(&serve, &second).0, json!("Second"));
    page.client.close().await.unwrap();
}

/// More benches than a page of their list: the list is short, says how many there are, goes on, and finds by name.
#[tokio::test(flavor = "multi_thread")]
async fn a_long_list_of_benches_comes_page_by_page() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    for count in 1..=130 {
        let body = json!({"name": format!("Tide {count}"), "document": BenchDocument::fresh()}).to_string();
        assert_eq!(serve.ask("POST", "/api/benches", Some(&body)).0, 201);
    }
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    page.press("Benches").await;
    let shown = "[...document.querySelectorAll('[role=dialog] button[aria-label^=Delete]')]";
    page.until("a page of them", &format!("return {shown}.length === 100")).await;
    let said = page.text("[role=dialog]").await;
    let limits = "138 benches kept, of at most 10,000.";
    assert!(said.contains(limits), "{said}");
    assert!(serve.bytes("GET", "/api/benches", b"").1.len() < 20_000);
    page.press("More benches").await;
    page.until("all of them", &format!("return {shown}.length === 138")).await;
    assert_eq!(page.run(&format!("return new Set({shown}.map(b => b.ariaLabel)).size")).await, 138);
    assert_eq!(page.axe().await, Vec::<String>::new());

    page.type_into("[role=dialog] input:not([type=checkbox])", "pellow").await;
    page.until(
        "the one",
        &format!("return {shown}.map(b => b.ariaLabel).join() === 'Delete Low water at Pellow Slip'"),
    )
    .await;

    // What is deleted is found among the deleted for a month, and taken back.
    page.click(Locator::Css("[aria-label='Delete Low water at Pellow Slip']")).await;
    page.until("nothing left", "return document.body.innerText.includes('No bench has this in its name.')")
        .await;
    page.client.refresh().await.unwrap();
    page.settled().await;
    page.press("Benches").await;
    page.click(Locator::XPath("//label[.='Show deleted benches']")).await;
    page.click(Locator::Css("[aria-label='Take back Low water at Pellow Slip']")).await;
    page.until("nothing deleted", "return document.body.innerText.includes('No bench is deleted.')").await;
    assert!(page.text("[role=dialog]").await.contains("taken back for 30 days"));
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.click(Locator::XPath("//label[.='Show deleted benches']")).await;
    page.press("More benches").await;
    // Where all of it lies, and how it is copied, stands under the list.
    page.click(Locator::XPath("//summary[.='Where is my work?']")).await;
    let said = page.text("[role=dialog] details").await;
    let folder = data.path().join("postgres");
    assert!(said.contains(&*folder.to_string_lossy()) && said.contains("clear-bend backup --data"), "{said}");
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.press("Low water at Pellow Slip").await;
    page.until("it", "return document.querySelector('input[aria-label=\"Name of the bench\"]').value === 'Low water at Pellow Slip'").await;
    page.client.close().await.unwrap();
}
