//! The page and the files that it is made of.

use std::path::{Path, PathBuf};

use actix_web::http::header::{CACHE_CONTROL, ContentType};
use actix_web::web::{self, Data, ServiceConfig};
use actix_web::{HttpMessage, HttpRequest, HttpResponse, Responder};

use crate::security::Nonce;

/// What in the page is replaced by the nonce of the answer.
const NONCE_MARK: &str = "__NONCE__";

/// The built front end.
#[derive(Debug, Clone)]
pub struct Pages {
    folder: PathBuf,
}

/// Why the front end cannot be served.
#[derive(Debug, thiserror::Error)]
#[error("{} cannot be read ({source}); accepted: the folder of a built front end, as `make build` makes it", file.display())]
pub struct PagesError {
    file: PathBuf,
    source: std::io::Error,
}

impl Pages {
    /// The built front end in a folder.
    ///
    /// # Errors
    /// [`PagesError`] if there is none.
    pub fn read(folder: &Path) -> Result<Self, PagesError> {
        let pages = Self { folder: folder.to_owned() };
        pages.index().map(|_| pages)
    }

    /// The page as it is now: building it anew needs no restart.
    fn index(&self) -> Result<String, PagesError> {
        let file = self.folder.join("index.html");
        std::fs::read_to_string(&file).map_err(|source| PagesError { file, source })
    }
}

/// The page under each of its addresses, and its files. Files carry a hash in their name and are kept for long.
pub fn routes(config: &mut ServiceConfig) {
    config.route("/assets/{file}", web::get().to(asset));
    for address in ["/", "/bench/{id}"] {
        config.route(address, web::get().to(index));
    }
    config.default_service(web::route().to(nothing_here));
}

async fn index(request: HttpRequest, pages: Data<Pages>) -> HttpResponse {
    let nonce = request.extensions().get::<Nonce>().map(|n| n.0.clone()).unwrap_or_default();
    let page = match pages.index() {
        Ok(page) => page,
        Err(error) => return HttpResponse::InternalServerError().body(error.to_string()),
    };
    HttpResponse::Ok()
        .content_type(ContentType::html())
        .insert_header((CACHE_CONTROL, "no-cache"))
        .body(page.replace(NONCE_MARK, &nonce))
}

/// One file of the front end. Its name comes from outside: only the plain names of files are accepted.
async fn asset(request: HttpRequest, name: web::Path<String>, pages: Data<Pages>) -> HttpResponse {
    let plain = name.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '.' | '-' | '_'))
        && !name.starts_with('.');
    let file = if plain {
        actix_files::NamedFile::open(pages.folder.join("assets").join(name.as_str())).ok()
    } else {
        None
    };
    match file {
        Some(file) => file
            .use_last_modified(false)
            .customize()
            .insert_header((CACHE_CONTROL, "public, max-age=31536000, immutable"))
            .respond_to(&request)
            .map_into_boxed_body(),
        None => {
            HttpResponse::NotFound().insert_header((CACHE_CONTROL, "no-store")).body("There is no such file.")
        }
    }
}

async fn nothing_here() -> HttpResponse {
    HttpResponse::NotFound().body("There is nothing at this address.")
}
