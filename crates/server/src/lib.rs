//! The HTTP side: the API under `/api`, the page and its files, and the headers that keep them safe.

mod api;
mod connections;
mod pages;
mod security;

#[cfg(feature = "typescript")]
pub use api::declared::written as declared_answers;
pub use pages::{Pages, PagesError};

use actix_web::dev::Server;
use actix_web::middleware::{Logger, from_fn};
use actix_web::web::{Data, ServiceConfig};
use actix_web::{App, HttpServer};
use clear_bend_store::Store;

/// How long open requests may take to end when the server is told to stop, in seconds.
const STOP_WAIT_S: u64 = 5;

/// Threads that talk to clients; the work itself has others.
const WORKERS: usize = 2;

/// Everything a request can reach, for a server and for tests.
pub fn routes(config: &mut ServiceConfig) {
    config.configure(api::routes).configure(pages::routes);
}

/// A server on a bound listener. It stops in order on SIGINT and SIGTERM.
///
/// # Errors
/// Those of the listener.
pub fn serve(listener: std::net::TcpListener, store: Store, pages: Pages) -> std::io::Result<Server> {
    let pages = Data::new(pages);
    let store = Data::new(store);
    let server = HttpServer::new(move || {
        App::new()
            .wrap(from_fn(security::guard))
            .wrap(Logger::new("%r %s %b bytes %D ms").log_level(log::Level::Debug))
            .app_data(Data::clone(&pages))
            .app_data(Data::clone(&store))
            .configure(routes)
    })
    .on_connect(connections::Client::keep)
    .workers(WORKERS)
    .max_connections(connections::limits(WORKERS))
    .shutdown_timeout(STOP_WAIT_S)
    .listen(listener)?;
    Ok(server.run())
}
