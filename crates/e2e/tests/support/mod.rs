//! The application with a browser in front of it.

use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::elements::Element;
use fantoccini::wd::{Capabilities, WebDriverCompatibleCommand};
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use pruvex_testkit::TestDatabase;
use serde_json::{Value, json};
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::sync::{Mutex, MutexGuard};

/// Generous for a busy machine, on which everything may stand still for many seconds; a step that works takes a small part of it.
const PATIENCE: Duration = Duration::from_secs(120);

/// One journey at a time: a browser keeps all cores busy, and several at once are no faster, only later.
static TURN: Mutex<()> = Mutex::const_new(());

pub struct Journey {
    pub browser: Client,
    pub database: TestDatabase,
    pub base: String,
    server: tokio::process::Child,
    _turn: MutexGuard<'static, ()>,
    profile: std::path::PathBuf,
}

fn setting(name: &str) -> String {
    std::env::var(name).unwrap_or_else(|_| panic!("{name} is not set: run the tests through script/test"))
}

/// Regions of the demo data.
fn import(database: &str, regions: &[&str]) {
    let files = regions.iter().map(|region| format!("../../demo/{region}.json"));
    let mut import = Command::new(setting("PRUVEX_BIN"));
    let import = import.arg("import").args(files).env("DATABASE_URL", database).output().unwrap();
    assert!(import.status.success(), "{}", String::from_utf8_lossy(&import.stderr));
}

impl Journey {
    /// A server with the demo data and a browser of 1280 x 800 in which an author is signed in.
    pub async fn start() -> Self {
        let journey = Self::start_signed_out().await;
        journey.open("/").await;
        journey.click("[data-test=enter-author]").await;
        journey.until("[data-test=account]", |buttons| buttons.len() == 1).await;
        journey
    }

    /// The same with nobody signed in.
    pub async fn start_signed_out() -> Self {
        let turn = TURN.lock().await;
        let database = TestDatabase::create().await.unwrap();
        let binary = setting("PRUVEX_BIN");
        import(&database.url, &["hand_wrist", "neck"]);
        let mut server = tokio::process::Command::new(&binary)
            .args(["serve", "--port", "0", "--demo"])
            .env("DATABASE_URL", &database.url)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .kill_on_drop(true)
            .spawn()
            .unwrap();
        let mut lines = BufReader::new(server.stdout.take().unwrap()).lines();
        let line = lines.next_line().await.unwrap().expect("the server says where it listens");
        let base = line.strip_prefix("listening on ").unwrap().to_owned();
        let profile = std::env::temp_dir()
            .join(format!("pruvex-e2e-{}-{}", std::process::id(), base.len() + line.len()))
            .join(base.rsplit(':').next().unwrap());
        let browser = ClientBuilder::new(HttpConnector::new())
            .capabilities(capabilities(&profile))
            .connect(&setting("WEBDRIVER_URL"))
            .await
            .unwrap();
        let journey = Self { browser, database, base, server, _turn: turn, profile };
        journey.resize(1280, 800).await;
        journey
    }

    /// Brings another region of the demo data in.
    pub fn import(&self, region: &str) {
        import(&self.database.url, &[region]);
    }

    pub async fn end(mut self) {
        self.assert_calm_console().await;
        self.browser.close().await.unwrap();
        self.server.kill().await.unwrap();
        self.database.drop().await.unwrap();
        let _ = std::fs::remove_dir_all(self.profile);
    }

    pub async fn open(&self, path: &str) {
        self.browser.goto(&format!("{}{path}", self.base)).await.unwrap();
    }

    /// The first match, waited for.
    async fn found(&self, css: &str) -> Element {
        match self.browser.wait().at_most(PATIENCE).for_element(Locator::Css(css)).await {
            Ok(element) => element,
            Err(error) => panic!("{css}: {error}\n{}", self.page().await),
        }
    }

    /// Where the browser is and what it shows, for whoever reads why a journey failed.
    async fn page(&self) -> String {
        let script = "return `${location.href} says:\n${document.body.innerText}`";
        let said = self.browser.execute(script, vec![]).await;
        said.ok().and_then(|it| it.as_str().map(str::to_owned)).unwrap_or_default()
    }

    /// Waits until the first match stands still: a hand follows what moves, a driver hits where it was.
    async fn until_still(&self, css: &str) {
        let script = "const [css, done] = arguments
            let before = null
            const look = () => {
                const element = document.querySelector(css)
                const { x, y } = element?.getBoundingClientRect() ?? {}
                // A button that is still at work takes no click.
                const ready = !element?.matches('.v-btn--loading, :disabled')
                if (`${x} ${y}` === before && ready) return done()
                before = `${x} ${y}`
                // Not with the next frame: a busy machine may draw none for minutes.
                setTimeout(look, 20)
            }
            look()";
        // A page that is just being left answers nothing; the click looks again.
        let _ = self.browser.execute_async(script, vec![json!(css)]).await;
    }

    /// Clicks the first match; one that is just being replaced or lies below something is moved to the middle, as a person would, and
    /// tried again.
    pub async fn click(&self, css: &str) {
        let start = Instant::now();
        loop {
            let element = self.found(css).await;
            self.until_still(css).await;
            match element.click().await {
                Ok(()) => return,
                Err(error) => assert!(start.elapsed() < PATIENCE, "{css} cannot be clicked: {error}"),
            }
            let middle = "document.querySelector(arguments[0])?.scrollIntoView({ block: 'center' })";
            self.browser.execute(middle, vec![json!(css)]).await.unwrap();
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }

    /// Replaces what stands in a field.
    pub async fn fill(&self, css: &str, text: &str) {
        let field = self.found(css).await;
        // Select all, so that typing replaces: clearing alone is not seen by the framework.
        field.send_keys("\u{e009}a\u{e000}").await.expect(css);
        field.send_keys(text).await.expect(css);
    }

    /// Types into whatever has the focus; while that is just being hidden, the focus is on its way elsewhere.
    pub async fn press(&self, keys: &str) {
        let start = Instant::now();
        while let Err(error) = self.browser.active_element().await.unwrap().send_keys(keys).await {
            assert!(start.elapsed() < PATIENCE, "{keys:?} cannot be typed: {error}");
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }

    pub async fn blur(&self) {
        self.browser.execute("document.activeElement.blur()", vec![]).await.unwrap();
    }

    /// The page's background once it has been painted: a change of colours takes effect with the next frame.
    pub async fn background(&self) -> Value {
        let script = "const done = arguments[0];
            requestAnimationFrame(() => requestAnimationFrame(() =>
                done(getComputedStyle(document.querySelector('.v-application')).backgroundColor)))";
        self.browser.execute_async(script, vec![]).await.unwrap()
    }

    /// Makes the page itself this large.
    pub async fn resize(&self, width: u32, height: u32) {
        self.browser.set_window_size(width, height).await.unwrap();
        let inner = self.browser.execute("return [innerWidth, innerHeight]", vec![]).await.unwrap();
        let frame = |index: usize, wanted: u32| 2 * wanted - u32::try_from(inner[index].as_u64().unwrap()).unwrap();
        self.browser.set_window_size(frame(0, width), frame(1, height)).await.unwrap();
    }

    /// Text of the first match as it is seen.
    pub async fn text(&self, css: &str) -> String {
        self.found(css).await.text().await.expect(css)
    }

    pub async fn texts(&self, css: &str) -> Vec<String> {
        let script = "return [...document.querySelectorAll(arguments[0])].map((e) => e.innerText.trim())";
        let found = self.browser.execute(script, vec![json!(css)]).await.unwrap();
        found.as_array().unwrap().iter().map(|text| text.as_str().unwrap().to_owned()).collect()
    }

    /// Waits until the texts of all matches satisfy `wish`.
    pub async fn until(&self, css: &str, wish: impl Fn(&[String]) -> bool) {
        let start = Instant::now();
        loop {
            let texts = self.texts(css).await;
            if wish(&texts) {
                return;
            }
            if start.elapsed() >= PATIENCE {
                panic!("{css} still says {texts:#?}\n{}", self.page().await);
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    pub async fn until_says(&self, css: &str, part: &str) {
        self.until(css, |texts| texts.iter().any(|text| text.contains(part))).await;
    }

    /// Waits until the address holds `part`.
    pub async fn until_address(&self, part: &str) {
        let start = Instant::now();
        loop {
            let url = self.browser.current_url().await.unwrap();
            if url.as_str().contains(part) {
                return;
            }
            assert!(start.elapsed() < PATIENCE, "the address is still {url}");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// Asks the API from within the page, as a second user would.
    pub async fn api(&self, method: &str, path: &str, headers: Value, body: Value) -> Value {
        let script = "const [method, path, headers, body, done] = arguments;
            fetch(path, { method, headers: { 'Content-Type': 'application/json', ...headers },
                body: body === null ? undefined : JSON.stringify(body) }).then((r) => r.json()).then(done)";
        self.browser.execute_async(script, vec![json!(method), json!(path), headers, body]).await.unwrap()
    }

    /// The status of a request without a body, sent from within the page.
    pub async fn api_status(&self, method: &str, path: &str) -> Value {
        let script = "const [method, path, done] = arguments; fetch(path, { method }).then((r) => done(r.status))";
        self.browser.execute_async(script, vec![json!(method), json!(path)]).await.unwrap()
    }

    /// Errors in the browser's console fail a journey; refusals that it provoked (4xx, 503) are expected to be noted.
    pub async fn assert_calm_console(&self) {
        let entries = self.browser.issue_cmd(ConsoleLog).await.unwrap();
        let severe: Vec<&Value> = entries
            .as_array()
            .unwrap()
            .iter()
            .filter(|entry| entry["level"] == "SEVERE" && entry["source"] != "network")
            .collect();
        assert!(severe.is_empty(), "the console holds errors: {severe:#?}");
    }
}

fn capabilities(profile: &std::path::Path) -> Capabilities {
    let mut arguments = vec![
        "--headless=new",
        "--disable-gpu",
        "--disable-dev-shm-usage",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-quic",
        "--no-first-run",
        "--hide-scrollbars",
        "--force-device-scale-factor=1",
        "--lang=en-GB",
        "--force-prefers-reduced-motion",
    ];
    if is_root() {
        arguments.push("--no-sandbox");
    }
    let profile = format!("--user-data-dir={}", profile.display());
    arguments.push(&profile);
    let wanted = json!({
        "browserName": "chrome",
        "timeouts": { "script": PATIENCE.as_millis(), "pageLoad": PATIENCE.as_millis() },
        "goog:loggingPrefs": { "browser": "ALL" },
        "goog:chromeOptions": { "args": arguments, "binary": "/usr/bin/chromium" }
    });
    wanted.as_object().unwrap().clone().into_iter().collect()
}

/// Chromium refuses its sandbox to root.
fn is_root() -> bool {
    let output: Option<std::process::Output> = Command::new("id").arg("-u").output().ok();
    output.is_some_and(|output| output.stdout == b"0\n")
}

#[derive(Debug)]
struct ConsoleLog;

impl WebDriverCompatibleCommand for ConsoleLog {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        base.join(&format!("session/{}/se/log", session.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        (http::Method::POST, Some(json!({ "type": "browser" }).to_string()))
    }
}
