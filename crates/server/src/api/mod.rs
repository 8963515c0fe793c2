//! The API. Every answer is JSON; every error is `{"error": {"code", "message"}}`.

mod bodies;
pub mod declared;
mod documents;
mod error;
mod exports;
mod responses;
mod tracks;
mod work;

pub use error::ApiError;

use std::time::Duration;

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::middleware::DefaultHeaders;
use actix_web::web::{self, Data, Json, Path, PathConfig, QueryConfig, ServiceConfig};
use clear_bend_bench::LARGEST_BYTES;
use clear_bend_store::{Store, StoreError};
use serde::Serialize;

use work::{SOUNDS, Ticket, aside};

/// The largest body that is read, bytes: the largest bench, its name, and what else is said of it. What is larger than a bench may be is
/// refused by the core, which says what to do.
pub const LARGEST_BODY: usize = LARGEST_BYTES + 10_000;

/// All addresses of the API.
pub fn routes(config: &mut ServiceConfig) {
    config
        .app_data(PathConfig::default().error_handler(|e, _| ApiError::address(&e.to_string()).into()))
        .app_data(QueryConfig::default().error_handler(|e, _| ApiError::address(&e.to_string()).into()))
        .service(
            web::scope("/api")
                .wrap(DefaultHeaders::new().add((declared::HEADER, declared::NUMBER.to_string())))
                .route("/health", web::get().to(health))
                .route("/health/live", web::get().to(live))
                .route("/where", web::get().to(whereabouts))
                .route("/line/{ticket}", web::get().to(place_in_line))
                // Before the addresses of single ones.
                .configure(responses::routes)
                .configure(documents::routes)
                .configure(tracks::routes)
                .configure(exports::routes)
                .default_service(web::route().to(nothing_here)),
        );
}

#[derive(Serialize)]
struct Live {
    status: &'static str,
}

#[derive(Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
struct Health {
    /// Whether the program runs.
    status: &'static str,
    /// Whether the database answers.
    database: &'static str,
}

/// How long the question after the database may take, whatever it does.
const HEALTH_WAIT: Duration = Duration::from_millis(800);

/// Whether the program runs, whatever the database does.
async fn live() -> Json<Live> {
    Json(Live { status: "ok" })
}

/// Whether it can do its work.
async fn health(store: Data<Store>) -> (Json<Health>, StatusCode) {
    let asked = tokio::time::timeout(HEALTH_WAIT, on_database(store, |store| store.check()));
    match asked.await.unwrap_or_else(|_| Err(ApiError::stopping())) {
        Ok(()) => (Json(Health { status: "ok", database: "up" }), StatusCode::OK),
        Err(_) => (Json(Health { status: "limited", database: "down" }), StatusCode::SERVICE_UNAVAILABLE),
    }
}

#[derive(Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
struct Whereabouts {
    /// The folder of our own database; none where it is somebody else's.
    folder: Option<String>,
    /// The command that copies all of it into one file.
    backup: Option<String>,
}

/// Where all that is saved lies.
async fn whereabouts(store: Data<Store>) -> Json<Whereabouts> {
    let folder = store.folder().map(|folder| folder.display().to_string());
    let backup =
        folder.as_ref().map(|folder| format!("clear-bend backup --data '{folder}' clear-bend.backup"));
    Json(Whereabouts { folder, backup })
}

#[derive(Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS), ts(rename = "PlaceInLine"))]
struct Place {
    /// How many come first; none for who does not wait.
    ahead: Option<usize>,
}

/// The place in the line of a request that was sent with a ticket.
async fn place_in_line(ticket: Path<String>) -> Json<Place> {
    let ahead =
        Ticket::of(&ticket).and_then(|ticket| SOUNDS.ahead(&ticket).or_else(|| tracks::ahead(&ticket)));
    Json(Place { ahead })
}

async fn nothing_here() -> Result<HttpResponse, ApiError> {
    Err(ApiError::no_such_address())
}

/// Runs a query on a thread for blocking work.
async fn on_database<T: Send + 'static>(
    store: Data<Store>,
    query: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
) -> Result<T, ApiError> {
    aside(move || query(&store).map_err(ApiError::from)).await
}
