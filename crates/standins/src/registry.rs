//! A registry of published works: an identifier in, the work as CSL-JSON out, as the registries of DOIs answer it. All of its
//! works are made up. It also shows what real ones do on a bad day: `10.5555/slow.1` takes twenty seconds, `10.5555/down.1` fails,
//! `10.5555/garbled.1` answers something that is no work.

use std::net::{IpAddr, Ipv4Addr};
use std::path::PathBuf;
use std::sync::{Mutex, OnceLock};
use std::time::Duration;

use rocket::fairing::AdHoc;
use rocket::http::{ContentType, Status};
use rocket::{Build, Rocket, get, routes};
use serde_json::Value;

const WORKS: &str = include_str!("../data/works.json");

/// About what a registry on the other side of an ocean takes.
const USUAL: Duration = Duration::from_millis(180);
const SLOW: Duration = Duration::from_secs(20);

/// Starts the registry on a free loopback port, for as long as the program runs; answers its address.
///
/// # Errors
/// It cannot be started.
pub async fn start_registry() -> Result<String, String> {
    let (tell, told) = tokio::sync::oneshot::channel();
    let tell = Mutex::new(Some(tell));
    let lifted = AdHoc::on_liftoff("Port", move |registry| {
        if let Some(tell) = tell.lock().ok().and_then(|mut tell| tell.take()) {
            let _ = tell.send(registry.config().port);
        }
        Box::pin(async {})
    });
    tokio::spawn(registry().attach(lifted).launch());
    let port = told.await.map_err(|_| "the simulated registry did not start".to_owned())?;
    Ok(format!("http://{}:{port}", Ipv4Addr::LOCALHOST))
}

fn registry() -> Rocket<Build> {
    let config = rocket::Config {
        address: IpAddr::V4(Ipv4Addr::LOCALHOST),
        port: 0,
        cli_colors: false,
        ident: rocket::config::Ident::none(),
        // It goes when the program goes that started it.
        shutdown: rocket::config::Shutdown { ctrlc: false, grace: 0, mercy: 0, ..Default::default() },
        workers: 1,
        ..rocket::Config::default()
    };
    rocket::custom(config).mount("/", routes![by_doi, by_pmid])
}

type Answer = (Status, (ContentType, String));

#[get("/works/<doi..>")]
async fn by_doi(doi: PathBuf) -> Answer {
    let doi = doi.to_string_lossy().to_lowercase();
    match doi.as_str() {
        "10.5555/slow.1" => {
            tokio::time::sleep(SLOW).await;
            answer(|work| work["DOI"] == "10.5555/fenwater.2019.001")
        }
        "10.5555/down.1" => (Status::ServiceUnavailable, (ContentType::Plain, "try later".to_owned())),
        "10.5555/garbled.1" => (Status::Ok, (ContentType::HTML, "<p>Sign in to your library</p>".to_owned())),
        _ => {
            tokio::time::sleep(USUAL).await;
            answer(|work| work["DOI"].as_str() == Some(&doi))
        }
    }
}

#[get("/pubmed/<number>")]
async fn by_pmid(number: &str) -> Answer {
    tokio::time::sleep(USUAL).await;
    answer(|work| work["PMID"].as_str() == Some(number))
}

fn answer(wanted: impl Fn(&Value) -> bool) -> Answer {
    let csl = ContentType::new("application", "vnd.citationstyles.csl+json");
    match works().iter().find(|work| wanted(work)) {
        Some(work) => (Status::Ok, (csl, work.to_string())),
        None => (Status::NotFound, (ContentType::Plain, "no such work".to_owned())),
    }
}

fn works() -> &'static [Value] {
    static PARSED: OnceLock<Vec<Value>> = OnceLock::new();
    PARSED.get_or_init(|| serde_json::from_str(WORKS).unwrap_or_default())
}

#[cfg(test)]
mod tests {
    use super::works;

    #[test]
    fn every_work_is_marked_as_an_example_and_can_be_found_by_one_identifier() {
        let mut seen = std::collections::HashSet::new();
        for work in works() {
            assert!(work["DOI"].as_str().is_some_and(|doi| doi.starts_with("10.5555/")), "{work}");
            assert!(seen.insert(work["DOI"].to_string()), "twice: {work}");
            assert!(work["title"].as_str().is_some_and(|title| !title.is_empty()), "{work}");
        }
        assert!(seen.len() >= 12);
    }
}
