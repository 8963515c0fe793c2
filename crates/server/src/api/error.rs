//! Errors at the edge: one clear sentence and the right status.

use actix_web::error::JsonPayloadError;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use clear_bend_catalogue::document::refusal_of;
use clear_bend_media::MediaError;
use clear_bend_sound::Refusal;
use clear_bend_store::StoreError;
use serde::Serialize;

use super::LARGEST_BODY;

/// An error as it is sent.
#[derive(Debug, thiserror::Error)]
#[error("{message}")]
pub struct ApiError {
    status: StatusCode,
    code: &'static str,
    message: String,
}

impl ApiError {
    fn new(status: StatusCode, code: &'static str, message: String) -> Self {
        Self { status, code, message }
    }

    /// A request that does not name this machine.
    pub fn host(found: &str) -> Self {
        let refusal =
            Refusal::new("host", format!("\u{201c}{found}\u{201d}"), "localhost or a loopback address");
        Self::new(StatusCode::MISDIRECTED_REQUEST, "host", refusal.to_string())
    }

    /// A request that would change something and was not sent by our own page.
    pub fn elsewhere() -> Self {
        let message = "this would change something here, and was not sent by this page; \
                       accepted: an Origin header with this address";
        Self::new(StatusCode::FORBIDDEN, "elsewhere", message.to_owned())
    }

    /// A packed body.
    pub fn encoded(found: &str) -> Self {
        let refusal = Refusal::new(
            "content-encoding",
            format!("\u{201c}{found}\u{201d}"),
            "a body as it is, not packed",
        );
        Self::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "packed", refusal.to_string())
    }

    /// A body that cannot be read.
    pub fn body(error: &JsonPayloadError) -> Self {
        match error {
            JsonPayloadError::OverflowKnownLength { .. } | JsonPayloadError::Overflow { .. } => Self::new(
                StatusCode::PAYLOAD_TOO_LARGE,
                "too-large",
                Refusal::new("body", "too large", format!("at most {LARGEST_BODY} bytes")).to_string(),
            ),
            JsonPayloadError::ContentType => Self::new(
                StatusCode::UNSUPPORTED_MEDIA_TYPE,
                "not-json",
                "the content type is not JSON; accepted: application/json".to_owned(),
            ),
            JsonPayloadError::Deserialize(error) => {
                Self::new(StatusCode::BAD_REQUEST, "not-json", refusal_of("body", error).to_string())
            }
            _ => Self::new(StatusCode::BAD_REQUEST, "not-json", "the body broke off; try again".to_owned()),
        }
    }

    /// A file that is too large.
    pub fn too_large(limit: usize) -> Self {
        let accepted = format!("at most {} MB", limit / 1_000_000);
        let message = Refusal::new("file", "too large", accepted).to_string();
        Self::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", message)
    }

    /// A body that ended before it was whole.
    pub fn broken_off() -> Self {
        let message = "the upload broke off; nothing was kept, try again".to_owned();
        Self::new(StatusCode::BAD_REQUEST, "broken-off", message)
    }

    /// A body that comes too slowly.
    pub fn too_slow() -> Self {
        let message = "what was sent came too slowly and was cut off; nothing was kept, try again";
        Self::new(StatusCode::REQUEST_TIMEOUT, "too-slow", message.to_owned())
    }

    /// More work than there are places to wait in.
    pub fn busy() -> Self {
        let message = "too many are waiting here already; nothing was begun, try again in a moment";
        Self::new(StatusCode::SERVICE_UNAVAILABLE, "busy", message.to_owned())
    }

    /// No room on the disk.
    pub fn full() -> Self {
        let message =
            "the disk is full; nothing was kept, and what was saved before is safe: make room and try again";
        Self::new(StatusCode::INSUFFICIENT_STORAGE, "disk-full", message.to_owned())
    }

    /// A disk that cannot be written to.
    pub fn disk(error: &std::io::Error) -> Self {
        if error.kind() == std::io::ErrorKind::StorageFull {
            return Self::full();
        }
        log::error!("a file that was brought cannot be written: {error}");
        Self::broke()
    }

    /// An export that would take too long.
    pub fn too_long(estimate_s: f64, most_s: f64) -> Self {
        let found = format!("about {estimate_s:.0} s of work");
        let accepted = format!("at most {most_s:.0} s; a shorter loop, or fewer stages, take less");
        Refusal::new("export", found, accepted).into()
    }

    /// An address whose parts cannot be read.
    pub fn address(why: &str) -> Self {
        // Of what the reader says, only the name of what is missing is in words of ours.
        let missing = why.split_once("missing field `").and_then(|(_, name)| name.split('`').next());
        let message = match missing {
            Some(name) => format!("the address names no {name}; accepted: ?{name}=..."),
            None => "the address cannot be read: a number or a word in it does not fit".to_owned(),
        };
        Self::new(StatusCode::BAD_REQUEST, "address", message)
    }

    /// An address that leads nowhere.
    pub fn no_such_address() -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", "there is nothing at this address".to_owned())
    }

    /// Work that broke: a fault of ours, which stands in the log.
    pub fn broke() -> Self {
        let message =
            "this broke here, and nothing was changed; what happened stands in the log of the program";
        Self::new(StatusCode::INTERNAL_SERVER_ERROR, "broke", message.to_owned())
    }

    /// A request that comes while the server stops.
    pub fn stopping() -> Self {
        Self::new(StatusCode::SERVICE_UNAVAILABLE, "stopping", "the server is stopping; try again".to_owned())
    }
}

impl From<Refusal> for ApiError {
    fn from(refusal: Refusal) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, "refused", refusal.to_string())
    }
}

impl From<MediaError> for ApiError {
    fn from(error: MediaError) -> Self {
        match error {
            MediaError::NotSound { .. } => {
                Self::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-sound", error.to_string())
            }
            MediaError::CutOff { .. } | MediaError::Refused(_) => {
                Self::new(StatusCode::UNPROCESSABLE_ENTITY, "refused", error.to_string())
            }
            // Where it comes from is ours: a file on our disk, or the database.
            MediaError::Read(error) => match error.downcast::<StoreError>() {
                Ok(error) => error.into(),
                Err(error) => Self::disk(&error),
            },
            MediaError::Unwanted | MediaError::Write(_) => {
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "media", error.to_string())
            }
        }
    }
}

impl From<StoreError> for ApiError {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound(_) => Self::new(StatusCode::NOT_FOUND, "not-found", error.to_string()),
            StoreError::Stale { .. } => Self::new(StatusCode::CONFLICT, "stale", error.to_string()),
            StoreError::Shipped(_) => Self::new(StatusCode::CONFLICT, "shipped", error.to_string()),
            StoreError::Refused(refusal) => refusal.into(),
            // What the database says in detail is for the log: it may name hosts and users.
            StoreError::Unavailable(why) => {
                log::error!("the database does not answer: {why}");
                let message = "the database does not answer; nothing was changed, try again in a moment";
                Self::new(StatusCode::SERVICE_UNAVAILABLE, "database-down", message.to_owned())
            }
            StoreError::Full => Self::full(),
            StoreError::Newer(_) => {
                Self::new(StatusCode::SERVICE_UNAVAILABLE, "database-newer", error.to_string())
            }
            StoreError::Database(why) => {
                log::error!("the database refused: {why}");
                let message = "the database refused; nothing was changed";
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "database", message.to_owned())
            }
        }
    }
}

#[derive(Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS), ts(rename = "Fault"))]
pub(super) struct Envelope<'a> {
    error: Content<'a>,
}

#[derive(Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS), ts(rename = "FaultContent"))]
struct Content<'a> {
    code: &'a str,
    message: &'a str,
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        self.status
    }

    fn error_response(&self) -> HttpResponse {
        let error = Content { code: self.code, message: &self.message };
        HttpResponse::build(self.status).json(Envelope { error })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_error_has_its_status_and_hides_what_the_database_says() {
        let status = |error: StoreError| ApiError::from(error).status.as_u16();
        assert_eq!(status(StoreError::NotFound("bench 1".to_owned())), 404);
        assert_eq!(status(StoreError::Stale { kind: "bench", given: 1, current: 2 }), 409);
        assert_eq!(status(StoreError::Refused(Refusal::new("ratio", 0.5, "1 to inf"))), 422);
        assert_eq!(status(StoreError::Unavailable("password of clear_bend".to_owned())), 503);
        assert_eq!(status(StoreError::Full), 507);
        assert_eq!(status(StoreError::Database("syntax".to_owned())), 500);
        assert!(!ApiError::from(StoreError::Unavailable("password".to_owned())).message.contains("password"));
        assert_eq!(ApiError::body(&JsonPayloadError::Overflow { limit: 1 }).status.as_u16(), 413);
        assert_eq!(ApiError::body(&JsonPayloadError::ContentType).status.as_u16(), 415);
    }
}
