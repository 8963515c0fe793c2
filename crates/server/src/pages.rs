//! The page and the files that it is made of.

use std::path::{Path, PathBuf};

use actix_files::NamedFile;
use actix_web::http::header::{
    AcceptEncoding, CACHE_CONTROL, ContentEncoding, ContentType, Encoding, Header,
};
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
    let file = plain.then(|| open(&pages.folder.join("assets"), &name, takes_brotli(&request))).flatten();
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

/// The file as the build has compressed it, at its best and once for all, or as it is.
fn open(folder: &Path, name: &str, brotli: bool) -> Option<NamedFile> {
    let compressed = brotli.then(|| NamedFile::open(folder.join(format!("{name}.br"))).ok()).flatten();
    let Some(compressed) = compressed else { return NamedFile::open(folder.join(name)).ok() };
    let kind = name.rsplit('.').next().unwrap_or_default();
    let compressed = compressed.set_content_encoding(ContentEncoding::Brotli);
    Some(compressed.set_content_type(actix_files::file_extension_to_mime(kind)).disable_content_disposition())
}

fn takes_brotli(request: &HttpRequest) -> bool {
    let brotli = Encoding::brotli();
    AcceptEncoding::parse(request).is_ok_and(|accepted| {
        accepted.negotiate([&brotli, &Encoding::identity()].into_iter()) == Some(brotli.clone())
    })
}

async fn nothing_here() -> HttpResponse {
    HttpResponse::NotFound().body("There is nothing at this address.")
}
