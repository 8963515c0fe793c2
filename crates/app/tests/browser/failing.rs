//! What breaks on the page says so, keeps the work, and is begun anew.

use fantoccini::Locator;
use serde_json::json;

use super::common::{self, Serve};
use super::explaining::typed;
use crate::browser::{Driver, Page};

/// Keeps hold of the workers and of the audio thread as they are made and spoken to.
const HELD: &str = "window.workers = new Set(); window.nodes = [];
    const posts = Worker.prototype.postMessage, connects = AudioNode.prototype.connect;
    Worker.prototype.postMessage = function (...rest) { window.workers.add(this); return posts.apply(this, rest); };
    AudioNode.prototype.connect = function (...rest) {
      if (this instanceof AudioWorkletNode) window.nodes.push(this);
      return connects.apply(this, rest);
    };";

const SAYS: &str = "[...document.querySelectorAll('[role=alert]')].map(e => e.textContent).join(' ')";

fn button(name: &str) -> String {
    format!("return [...document.querySelectorAll('footer button')].some(b => b.innerText === '{name}')")
}

async fn nudge(page: &Page) {
    page.wait("[role=slider][aria-label=Threshold]").await.send_keys("\u{E012}").await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn measuring_and_sound_that_break_are_begun_anew() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    page.run(HELD).await;
    nudge(&page).await;
    page.settled().await;
    let set = typed(&page, "Threshold").await;

    // A message at which the measuring worker throws where nobody catches it.
    page.until("both workers", "return window.workers.size === 2").await;
    page.run("const [one] = window.workers; one.postMessage(null)").await;
    page.until("what broke", &format!("return {SAYS}.includes('Measuring broke')")).await;
    assert!(page.text("[role=alert]").await.contains("It was begun anew, and your work is kept."));
    page.until("new workers", "return window.workers.size === 4").await;
    page.settled().await;
    assert_eq!(typed(&page, "Threshold").await, set);
    nudge(&page).await;
    page.settled().await;
    assert_ne!(typed(&page, "Threshold").await, set);

    // One that is gone altogether.
    page.run("const bends = [...window.workers][3]; bends.terminate(); bends.dispatchEvent(new ErrorEvent('error', { message: 'out of memory' }))").await;
    page.until("what broke", &format!("return {SAYS}.includes('out of memory')")).await;
    page.until("new workers", "return window.workers.size === 6").await;
    page.settled().await;
    page.until("bends", "return document.querySelectorAll('svg[aria-label^=\"Bend of\"]').length > 3 && !document.querySelector('[data-stale-bend]')").await;

    // The audio thread: a message that it cannot take. It plays on, and the page says why it stopped for a moment.
    page.press("Play").await;
    page.until("playing", "return window.nodes.length === 1").await;
    page.run("window.nodes[0].port.postMessage({ kind: 'piece' })").await;
    page.until("another audio thread", "return window.nodes.length === 2").await;
    assert!(page.run(&format!("return {SAYS}")).await.as_str().unwrap().contains("The sound broke"));
    page.until(
        "playing on",
        "const at = () => document.querySelector('[role=timer]').textContent;
         window.first ??= at(); return at() !== window.first",
    )
    .await;
    page.until("still playing", &button("Pause")).await;
    // At once again: it waits for somebody who plays.
    page.run("window.nodes[1].port.postMessage({ kind: 'piece' })").await;
    page.until("standing still", &button("Play")).await;
    assert!(page.run(&format!("return {SAYS}")).await.as_str().unwrap().contains("then play again"));
    page.press("Play").await;
    page.until("a third one", "return window.nodes.length === 3").await;
    assert_eq!(page.axe().await, Vec::<String>::new());

    // A message that the core does not accept is named, and the sound goes on.
    let runs = "{ shared: false, number: 0 }";
    page.run(&format!(
        "window.nodes[2].port.postMessage({{ kind: 'param', runs: {runs}, stage: 77, param: 0, value: 0 }})"
    ))
    .await;
    page.until("what was not taken", &format!("return {SAYS}.includes('did not take a change (param)')"))
        .await;
    page.until("still playing", &button("Pause")).await;

    // Who reports a fault copies what happened: all of that, and nothing of the work.
    page.click(Locator::Css("button[aria-label=Keys]")).await;
    page.click(Locator::XPath("//summary[normalize-space(.)='About Clear Bend']")).await;
    page.press("Copy what happened").await;
    let happened = page.text("[role=dialog] pre, [role=dialog] code").await;
    for part in ["Clear Bend 0.", "48000 Hz", "late blocks", "out of memory", "The sound broke", "(param)"] {
        assert!(happened.contains(part), "{part} is missing: {happened}");
    }
    page.click(Locator::XPath("//summary[normalize-space(.)=\"Whose work is in it\"]")).await;
    page.until(
        "licences",
        "return document.querySelectorAll('[role=dialog] table')[1].innerText.includes('OFL-1.1')",
    )
    .await;
    assert_eq!(page.axe().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn unsaved_work_is_never_lost_without_a_word() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    page.settled().await;
    let names = |serve: &Serve| {
        let list = serve.ask("GET", "/api/benches", None).1;
        list.as_array().unwrap().iter().map(|b| b["name"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    let shipped = names(&serve).len();
    let new_bench = async || {
        page.press("Benches").await;
        page.press("New bench").await;
        page.until(
            "a fresh bench",
            "return location.pathname === '/' && !document.querySelector('[role=dialog]')",
        )
        .await;
        page.settled().await;
    };
    // A new bench over one on which nothing was done leaves nothing behind; over work that was never saved, it saves that.
    new_bench().await;
    new_bench().await;
    assert_eq!(names(&serve).len(), shipped);
    nudge(&page).await;
    page.settled().await;
    let set = typed(&page, "Threshold").await;
    new_bench().await;
    assert!(
        page.text("[role=alert]").await.contains("was not saved yet, so it was saved among your benches")
    );
    assert_eq!(names(&serve)[0], "Untitled bench");
    assert_ne!(typed(&page, "Threshold").await, set);
    super::keeping::open_bench(&page, "Untitled bench").await;
    assert_eq!(typed(&page, "Threshold").await, set);

    // Work that cannot be read any more is said to be there, and stays until somebody lets it go.
    let spoilt = json!({"name": "Spoilt", "document": {"format": "of another time"}}).to_string();
    page.client.goto(&serve.address).await.unwrap();
    page.settled().await;
    new_bench().await;
    page.run(&format!("localStorage.setItem('clear-bend draft new', {})", json!(spoilt))).await;
    page.client.refresh().await.unwrap();
    new_bench().await;
    for _ in 0..2 {
        page.until("what is said", &format!("return {SAYS}.includes('cannot be read any more')")).await;
        nudge(&page).await;
        page.client.refresh().await.unwrap();
        page.settled().await;
    }
    let kept = page.run("return JSON.parse(localStorage.getItem('clear-bend unreadable new')).text").await;
    assert_eq!(kept, json!(spoilt));
    page.press("Let it go").await;
    page.until("silence", &format!("return !{SAYS}.includes('cannot be read any more')")).await;
    assert_eq!(page.run("return localStorage.getItem('clear-bend unreadable new')").await, json!(null));
    page.client.close().await.unwrap();
}
