//! A loop is measured as it is heard once it has gone round; played once, it ends by itself.

use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_effects as effects;
use clear_bend_measures::MatchBy;
use clear_bend_playing::path::Play;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render_with;
use clear_bend_signals::Source;
use clear_bend_sound::region::{Region, cut};
use fantoccini::Locator;
use serde_json::json;

use super::common::{self, Serve};
use super::keeping::open_bench;
use crate::browser::{Driver, Page};
use crate::{TAP, hear};

/// What went to the loudspeakers in 0.68 s, from so many milliseconds after the first sound on, as far as the analyser
/// mixes it: half of left and right.
async fn heard(page: &Page, after_ms: u32) -> Vec<f32> {
    let script = "const [after, done] = arguments; let began = null;
        // The audio graph is made when it is first played.
        const look = () => {
          if (!window.tap) return setTimeout(look, 5);
          const x = new Float32Array(32768); window.tap.getFloatTimeDomainData(x);
          began ??= x.some((v) => v !== 0) ? performance.now() : null;
          if (began !== null && performance.now() - began > after + 683) done(Array.from(x));
          else setTimeout(look, 5);
        };
        look();";
    let found = page.run_async(script, vec![json!(after_ms)]).await;
    serde_json::from_value(found).unwrap()
}

/// How far what was heard is from a loop, wherever in the loop it begins: the largest difference.
fn distance(heard: &[f32], looped: &[f32]) -> f32 {
    let from = |start: usize, n: usize| {
        let expected = looped.iter().cycle().skip(start);
        heard.iter().zip(expected).take(n).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
    };
    let near = |start: &usize| from(*start, 400);
    let start = (0..looped.len()).min_by(|a, b| near(a).total_cmp(&near(b))).unwrap();
    from(start, heard.len())
}

#[tokio::test(flavor = "multi_thread")]
async fn the_second_and_third_round_are_those_of_the_report() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let mut document = BenchDocument::fresh();
    let params = [("threshold_db", -45.0), ("ratio", 12.0), ("attack_ms", 2.0), ("release_ms", 40.0)];
    let path = Path { stages: vec![Stage::new(effects::find("compressor").unwrap(), &params).unwrap()] };
    let region = Region { from_s: 1.0, to_s: 1.3 };
    document.stems[0].snapshots = vec![path.to_document()];
    document.region = Some(region);
    document.listening.level_match = MatchBy::Off;
    let body = json!({"name": "Round and round", "document": document}).to_string();
    let (status, saved) = serve.ask("POST", "/api/benches", Some(&body));
    assert_eq!((status, &saved["document"]["play"]), (201, &json!("round")));

    open_bench(&page, "Round and round").await;
    page.run(TAP).await;
    page.press("Play").await;
    // The first round has gone after 300 ms, and whatever is late.
    let rounds = heard(&page, 350).await;

    let source = Source::from_document(&document.stems[0].source).unwrap().render(BENCH_RATE_HZ, 2).unwrap();
    let before = cut(&source, Some(region)).into_stereo();
    let looped = |play| -> Vec<f32> {
        let after = render_with(&path, &before, play, |_| {}).after;
        after.channels()[0].iter().zip(&after.channels()[1]).map(|(l, r)| 0.5 * (l + r)).collect()
    };
    // Real time on a busy machine may lose a block: then a later part is looked at.
    let mut apart = distance(&rounds, &looped(Play::Round));
    for _ in 0..5 {
        if apart < 1e-3 {
            break;
        }
        apart = distance(&heard(&page, 0).await, &looped(Play::Round));
    }
    let from_rest = distance(&rounds, &looped(Play::Once));
    println!(
        "browser: what leaves is {apart:.6} from the report's round; from rest it would be {from_rest:.6}"
    );
    assert!(apart < 1e-3 && from_rest > 0.003, "{apart}, {from_rest}");

    // Once, with its tail: it ends by itself, can be played again, and is saved with the bench.
    hear(&page, "Once, with its tail").await;
    page.settled().await;
    page.until(
        "the end",
        "return [...document.querySelectorAll('footer button')].some(b => b.textContent === 'Play')",
    )
    .await;
    let words = page
        .run_async(
            "const done = arguments[0]; const button = document.querySelector('footer button');
             const words = []; new MutationObserver(() => words.push(button.textContent))
               .observe(button, { childList: true, characterData: true, subtree: true });
             button.click(); setTimeout(() => done(words), 2500);",
            vec![],
        )
        .await;
    assert_eq!(words, json!(["Pause", "Play"]));
    page.press("Save").await;
    page.until("saving", "return document.querySelector('header [role=status]').textContent === 'Saved'")
        .await;
    let address = format!("/api/benches/{}", saved["id"]);
    assert_eq!(serve.ask("GET", &address, None).1["document"]["play"], "once");
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}

/// Whether the page says that all is saved.
const SAVED: &str = "return document.querySelector('header [role=status]').textContent === 'Saved'";

/// A stage that is keyed by a stem goes by that stem's source, whatever it becomes, and keeps its sound when the stem goes.
#[tokio::test(flavor = "multi_thread")]
async fn a_stem_is_a_key_and_stays_one() {
    let data = common::data_folder();
    let (serve, driver) = (Serve::start(data.path(), 0), Driver::start().await);
    let page = driver.open(&serve.address, 1280, 800).await;
    let tone = |level: f64| json!({"kind": "sine", "params": {"level_dbfs": level, "seconds": 1.0}});
    let stage = json!({"effect": "compressor", "params": {"hear": "what the detector hears"}});
    let document = json!({"format": "clear-bend-bench", "version": 3, "listening": {"level_match": "off"},
        "stems": [{"source": {"kind": "pink-noise"}, "snapshots": [{"stages": [stage]}]},
            {"source": tone(-40.0), "snapshots": [{"stages": []}]}],
        "view": {"spotlight": "hear"}});
    let body = json!({"name": "Keyed", "document": document}).to_string();
    let (status, saved) = serve.ask("POST", "/api/benches", Some(&body));
    assert_eq!(status, 201, "{saved}");
    let address = format!("/api/benches/{}", saved["id"]);
    page.client.goto(&format!("{}/bench/{}", serve.address, saved["id"])).await.unwrap();
    page.settled().await;
    let rms = "tr[data-row=after] td:nth-of-type(3)";
    let stem = |name: &str| {
        format!("//section[@aria-label='Stems']//button[starts-with(normalize-space(.), '{name}')]")
    };
    let choice = "//label[contains(., 'Key: what the detector hears')]/following::select[1]";
    let choose = page.client.find(Locator::XPath(choice)).await.unwrap();
    choose.select_by_value("stem:1").await.unwrap();
    page.settled().await;
    assert_eq!(page.text(rms).await, "\u{2212}43.0 dBFS");
    page.press("Save").await;
    let sounds = || {
        serve.ask("GET", &address, None).1["document"]["stems"][0]["snapshots"][0]["stages"][0]["sounds"]
            .clone()
    };
    page.until("saving", SAVED).await;
    assert_eq!(sounds(), json!({"key": {"kind": "stem", "stem": 1}}));
    assert_eq!(page.axe().await, Vec::<String>::new());
    // The other stem gets another source, and then goes.
    page.click(Locator::XPath(&stem("Sine"))).await;
    page.settled().await;
    page.set("Level", "-10").await;
    page.settled().await;
    page.click(Locator::XPath(&stem("Pink noise"))).await;
    page.settled().await;
    assert_eq!(page.text(rms).await, "\u{2212}13.0 dBFS");
    // After its path it is heard as it leaves it, here and in files.
    page.click(Locator::XPath(&stem("Sine"))).await;
    page.settled().await;
    super::explaining::choose(&page, "Add a stage", "gain").await;
    page.set("Gain", "-12").await;
    page.settled().await;
    page.click(Locator::XPath(&stem("Pink noise"))).await;
    page.settled().await;
    assert_eq!(page.text(rms).await, "\u{2212}13.0 dBFS");
    page.group("Key").await;
    let choose = page.client.wait().for_element(Locator::XPath(choice)).await.unwrap();
    choose.select_by_value("stem-after:1").await.unwrap();
    page.settled().await;
    assert_eq!(page.text(rms).await, "\u{2212}25.0 dBFS");
    page.press("Save").await;
    page.until("saving", SAVED).await;
    assert_eq!(sounds(), json!({"key": {"kind": "stem", "stem": 1, "after": true}}));
    let document = serve.ask("GET", &address, None).1["document"].clone();
    let wanted = json!({"document": document, "part": "after", "format": "wav32"}).to_string();
    let (status, file) = serve.bytes("POST", "/api/exports", wanted.as_bytes());
    assert_eq!(status, 200);
    let heard = clear_bend_media::read_sound(&file).unwrap();
    let level = clear_bend_measures::Levels::of(&heard).rms_dbfs;
    assert!((level + 25.0).abs() < 0.1, "{level}");
    page.click(Locator::Css("[aria-label='Remove Sine']")).await;
    page.settled().await;
    assert_eq!(page.text(rms).await, "\u{2212}13.0 dBFS");
    page.press("Save").await;
    page.until("saving", SAVED).await;
    assert_eq!(sounds(), json!({"key": {"kind": "sine", "params": {"seconds": 1.0, "level_dbfs": -10.0}}}));
    assert_eq!(page.console().await, Vec::<String>::new());
    page.client.close().await.unwrap();
}
