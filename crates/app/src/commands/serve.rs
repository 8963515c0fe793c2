//! `clear-bend serve [--port 8080]`

use std::io::Write as _;
use std::net::{Ipv4Addr, TcpListener};
use std::path::PathBuf;
use std::time::Duration;

use clap::Args;
use clear_bend_server::{Pages, serve};
use clear_bend_store::{OwnPostgres, Store};

use crate::data;
use crate::fault::Fault;
use crate::privileges;

/// The port where none is asked for; the next ones are tried if it is taken.
const USUAL_PORT: u16 = 8080;
/// How many ports are tried.
const PORTS_TRIED: u16 = 20;

/// How to serve.
#[derive(Args)]
pub struct Arguments {
    /// Port; if it is not given and 8080 is taken, the next free one
    #[arg(long)]
    port: Option<u16>,
    /// Folder of the built front end
    #[arg(long, default_value = "web/dist")]
    web: PathBuf,
    /// Folder for our own PostgreSQL, used where DATABASE_URL is not set
    #[arg(long, default_value = "var/postgres")]
    data: PathBuf,
}

/// Serves until it is told to stop.
pub fn run(arguments: Arguments) -> Result<(), Fault> {
    // Faults are written, and with RUST_LOG=debug every request.
    env_logger::Builder::from_env(env_logger::Env::default().default_filter_or("warn")).init();
    let pages = Pages::read(&arguments.web).map_err(|e| Fault::input("--web", e))?;
    let listener = listen(arguments.port)?;
    let address = listener.local_addr().map_err(|e| Fault::Failure(format!("the port is not known: {e}")))?;
    // Held until the end: dropping it stops the database, after the last request.
    let (url, own) = match std::env::var("DATABASE_URL") {
        Ok(url) => {
            privileges::give_up(privileges::WITH_GIVEN_DATABASE)?;
            (url, None)
        }
        Err(_) => {
            let folder = data::folder(&arguments.data)?;
            OwnPostgres::prepare(&folder).map_err(|e| Fault::Failure(e.to_string()))?;
            privileges::give_up(privileges::WITH_OWN_DATABASE)?;
            let own = OwnPostgres::start(&folder).map_err(|e| Fault::Failure(e.to_string()))?;
            (own.url().to_owned(), Some((own, folder)))
        }
    };
    let mut store = Store::open(&url).map_err(|e| Fault::Failure(e.to_string()))?;
    let mut place = "What is saved lies in the database that DATABASE_URL names.".to_owned();
    if let Some((_, folder)) = &own {
        store = store.kept_in(folder.clone());
        let folder = folder.display();
        place = format!(
            "What is saved lies in {folder}; `clear-bend backup --data {folder} FILE` copies all of it."
        );
    }
    let failed = |e: std::io::Error| Fault::Failure(format!("the server cannot run: {e}"));
    actix_web::rt::System::new().block_on(async move {
        actix_web::rt::spawn(purge_daily(store.clone()));
        let server = serve(listener, store, pages).map_err(failed)?;
        tell(&format!("Clear Bend is at http://{address}"));
        tell(&place);
        server.await.map_err(failed)
    })?;
    tell("Clear Bend has stopped.");
    Ok(())
}

/// Says a line, if anybody listens: a server goes on also where nobody does.
fn tell(line: &str) {
    let _ = writeln!(std::io::stdout(), "{line}");
}

/// Lets go of what was deleted long ago, once a day; the store has done so when it was opened.
async fn purge_daily(store: Store) {
    loop {
        actix_web::rt::time::sleep(Duration::from_secs(24 * 60 * 60)).await;
        let store = store.clone();
        if let Ok(Err(error)) = actix_web::web::block(move || store.purge()).await {
            log::error!("what was deleted long ago could not be let go: {error}");
        }
    }
}

/// Listens on the loopback interface only.
fn listen(port: Option<u16>) -> Result<TcpListener, Fault> {
    let bind = |port: u16| TcpListener::bind((Ipv4Addr::LOCALHOST, port));
    let Some(port) = port else {
        let free = (USUAL_PORT..USUAL_PORT + PORTS_TRIED).find_map(|port| bind(port).ok());
        let last = USUAL_PORT + PORTS_TRIED - 1;
        return free.ok_or_else(|| Fault::Failure(format!("no port from {USUAL_PORT} to {last} is free")));
    };
    bind(port).map_err(|e| Fault::input(&format!("--port {port}"), format!("{e}; accepted: a free port")))
}
