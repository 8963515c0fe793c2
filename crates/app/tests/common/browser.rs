//! Headless Chromium, driven through ChromeDriver.

use std::net::TcpListener;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::elements::Element;
use fantoccini::wd::{TimeoutConfiguration, WebDriverCompatibleCommand};
use fantoccini::{Client, ClientBuilder, Locator};
use serde_json::{Value, json};
use tokio::sync::{RwLock, RwLockReadGuard, RwLockWriteGuard};

/// Browser tests run one after the other, since they listen to time; those that only look run beside each other.
static TURNS: RwLock<()> = RwLock::const_new(());

/// Whose turn it is.
enum Turn {
    Alone { _held: RwLockWriteGuard<'static, ()> },
    Looking { _held: RwLockReadGuard<'static, ()> },
}

/// How long a script of a test may take.
const SCRIPT_WAIT: Duration = Duration::from_secs(180);

/// A ChromeDriver that ends with the test, and its browsers with it.
pub struct Driver {
    child: Child,
    port: u16,
    profile: tempfile::TempDir,
    _turn: Turn,
}

impl Driver {
    pub async fn start() -> Self {
        Self::with(Turn::Alone { _held: TURNS.write().await }).await
    }

    /// For a test that listens to nothing: others of the kind may run beside it.
    pub async fn start_looking() -> Self {
        Self::with(Turn::Looking { _held: TURNS.read().await }).await
    }

    async fn with(turn: Turn) -> Self {
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let child = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver is not installed; scripts/setup.sh installs it");
        let until = Instant::now() + Duration::from_secs(20);
        let ready = || ureq::get(format!("http://127.0.0.1:{port}/status")).call().is_ok();
        while !ready() {
            assert!(Instant::now() < until, "chromedriver does not come up");
            std::thread::sleep(Duration::from_millis(50));
        }
        Self { child, port, profile: tempfile::tempdir().unwrap(), _turn: turn }
    }

    /// A new browser window of a size, on an address.
    pub async fn open(&self, address: &str, width: u32, height: u32) -> Page {
        let profile = self.profile.path().join("profile");
        let profile = format!("--user-data-dir={}", profile.display());
        let arguments = [
            profile.as_str(),
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
        ];
        let Value::Object(capabilities) = json!({
            "goog:chromeOptions": {"args": arguments},
            "goog:loggingPrefs": {"browser": "ALL"},
        }) else {
            unreachable!()
        };
        let mut builder = ClientBuilder::new(hyper_util::client::legacy::connect::HttpConnector::new());
        builder.capabilities(capabilities);
        let client = builder.connect(&format!("http://127.0.0.1:{}", self.port)).await.unwrap();
        // Scripts that render minutes of sound may take long where neighbours take most of the machine.
        let patient = TimeoutConfiguration::new(Some(SCRIPT_WAIT), None, None);
        client.update_timeouts(patient).await.unwrap();
        let page = Page { client };
        page.resize(width, height, 1).await;
        page.client.goto(address).await.unwrap();
        page.wait("[data-testid=match-gain] b").await;
        page
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        // A test that failed has not closed its browser.
        let profile = self.profile.path().display().to_string();
        let _ = Command::new("pkill").args(["-KILL", "-f", "--", &profile]).status();
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Commands that are ChromeDriver's own.
#[derive(Debug)]
enum Chrome {
    Log,
    Devtools { name: &'static str, parameters: Value },
}

impl WebDriverCompatibleCommand for Chrome {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        let session = session.unwrap_or_default();
        let address = match self {
            Self::Log => "se/log",
            Self::Devtools { .. } => "goog/cdp/execute",
        };
        base.join(&format!("session/{session}/{address}"))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        let body = match self {
            Self::Log => json!({"type": "browser"}),
            Self::Devtools { name, parameters } => json!({"cmd": name, "params": parameters}),
        };
        (http::Method::POST, Some(body.to_string()))
    }
}

/// A page under test.
pub struct Page {
    pub client: Client,
}

impl Page {
    /// Sets the size of the page itself, in CSS pixels, and how many dots make one of them.
    pub async fn resize(&self, width: u32, height: u32, dots: u32) {
        let parameters =
            json!({"width": width, "height": height, "deviceScaleFactor": dots, "mobile": false});
        let name = "Emulation.setDeviceMetricsOverride";
        self.client.issue_cmd(Chrome::Devtools { name, parameters }).await.unwrap();
    }

    /// Lets the page believe that the machine has so many processors, once it is opened anew.
    pub async fn processors(&self, count: u32) {
        self.devtools("Emulation.setHardwareConcurrencyOverride", json!({"hardwareConcurrency": count}))
            .await;
    }

    /// How often the page has been laid out.
    pub async fn layouts(&self) -> f64 {
        self.devtools("Performance.enable", json!({})).await;
        let answer = self.devtools("Performance.getMetrics", json!({})).await;
        let mut metrics = answer["metrics"].as_array().unwrap().iter();
        metrics.find(|metric| metric["name"] == "LayoutCount").unwrap()["value"].as_f64().unwrap()
    }

    async fn devtools(&self, name: &'static str, parameters: Value) -> Value {
        self.client.issue_cmd(Chrome::Devtools { name, parameters }).await.unwrap()
    }

    /// Messages of the console since the last call.
    pub async fn console(&self) -> Vec<String> {
        let log = self.client.issue_cmd(Chrome::Log).await.unwrap();
        log.as_array().unwrap().iter().map(ToString::to_string).collect()
    }

    pub async fn wait(&self, css: &str) -> Element {
        let wait = self.client.wait().at_most(Duration::from_secs(20));
        match wait.for_element(Locator::Css(css)).await {
            Ok(element) => element,
            Err(error) => {
                panic!("{css} does not appear ({error}); the page says: {}", self.text("body").await)
            }
        }
    }

    pub async fn text(&self, css: &str) -> String {
        let found = self.client.find(Locator::Css(css)).await;
        match found {
            Ok(element) => element.text().await.unwrap(),
            Err(error) => panic!("{css} is not there: {error}"),
        }
    }

    /// Clicks once there is something to be clicked that stands still: what slides in takes a moment, and is hit elsewhere meanwhile.
    pub async fn click(&self, place: Locator<'_>) {
        let (begun, patience) = (Instant::now(), Duration::from_secs(20));
        let mut seen = None;
        loop {
            let clicked = match self.client.find(place).await {
                Ok(element) => {
                    let at = element.rectangle().await.ok();
                    let rests = seen == Some(at) || begun.elapsed() > Duration::from_secs(2);
                    seen = Some(at);
                    if rests { element.click().await.map(|()| true) } else { Ok(false) }
                }
                Err(error) => Err(error),
            };
            match clicked {
                Ok(true) => return,
                Ok(false) => {}
                Err(error) => assert!(begun.elapsed() < patience, "{place:?} cannot be clicked: {error}"),
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// Presses a button by its text.
    pub async fn press(&self, label: &str) {
        self.click(Locator::XPath(&format!("//button[normalize-space(.)='{label}']"))).await;
    }

    /// Sends keys to the page as a whole, or to what has the focus.
    pub async fn keys(&self, keys: &str) {
        self.client.active_element().await.unwrap().send_keys(keys).await.unwrap();
    }

    /// Shows a group of parameters.
    pub async fn group(&self, name: &str) {
        let place = format!("//*[@aria-label='Group of parameters']//label[normalize-space(.)='{name}']");
        self.click(Locator::XPath(&place)).await;
    }

    /// Types a value of a parameter that is shown.
    pub async fn set(&self, label: &str, value: &str) {
        let field = self.wait(&format!("input[aria-label='{label}, typed value']")).await;
        field.click().await.unwrap();
        // A field that has the focus already is not marked by a click.
        let marks = vec![serde_json::to_value(&field).unwrap()];
        self.client.execute("arguments[0].select()", marks).await.unwrap();
        field.send_keys(&format!("{value}\u{E007}")).await.unwrap();
    }

    /// Types into a field once it takes keys.
    pub async fn type_into(&self, css: &str, text: &str) {
        let until = Instant::now() + Duration::from_secs(5);
        while let Err(error) = self.wait(css).await.send_keys(text).await {
            assert!(Instant::now() < until, "{css} takes no keys: {error}");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    pub async fn run(&self, script: &str) -> Value {
        self.client.execute(script, vec![]).await.unwrap()
    }

    /// Runs a script that calls back with its last argument.
    pub async fn run_async(&self, script: &str, arguments: Vec<Value>) -> Value {
        self.client.execute_async(script, arguments).await.unwrap()
    }

    /// Waits until a script returns true.
    pub async fn until(&self, what: &str, script: &str) {
        let until = Instant::now() + Duration::from_secs(20);
        while self.run(script).await != Value::Bool(true) {
            assert!(
                Instant::now() < until,
                "{what} does not come; the page says: {}",
                self.text("body").await
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// Waits until the numbers on the screen belong to the settings.
    pub async fn settled(&self) {
        self.drawn().await;
        tokio::time::sleep(Duration::from_millis(350)).await;
    }

    /// Waits until the picture belongs to the settings: what is beside the work may still come.
    pub async fn drawn(&self) {
        tokio::time::sleep(Duration::from_millis(150)).await;
        self.until("the picture", "return !document.querySelector('[data-stale]')").await;
    }

    /// The serious violations that axe-core finds.
    pub async fn axe(&self) -> Vec<String> {
        let source =
            std::fs::read_to_string(crate::common::root().join("web/node_modules/axe-core/axe.min.js"))
                .unwrap();
        self.run(&source).await;
        let found = self
            .run_async(
                "const done = arguments[0]; axe.run().then(r => done(r.violations
                    .map(v => `${v.id}: ${v.help}: ${v.nodes.map(n => n.target + ' ' + n.failureSummary).join(' | ')}`)))",
                vec![],
            )
            .await;
        found.as_array().unwrap().iter().map(ToString::to_string).collect()
    }

    /// Keeps a picture of the page where CLEAR_BEND_SCREENSHOTS says, and nowhere otherwise.
    pub async fn picture(&self, name: &str) {
        if let Ok(folder) = std::env::var("CLEAR_BEND_SCREENSHOTS") {
            let png = self.client.screenshot().await.unwrap();
            std::fs::write(std::path::Path::new(&folder).join(format!("{name}.png")), png).unwrap();
        }
    }
}
