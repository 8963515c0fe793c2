//! Bodies of requests: none takes more time or room than it may.

use std::fs::File;
use std::future::Future;
use std::io::Write;
use std::pin::Pin;
use std::time::{Duration, Instant};

use actix_web::dev::Payload as Stream;
use actix_web::web::{Json, Payload};
use actix_web::{FromRequest, HttpRequest};
use futures_util::StreamExt;
use serde::de::DeserializeOwned;

use super::ApiError;
use super::work::aside;

/// A document has to be there within this time.
const DOCUMENT_WAIT: Duration = Duration::from_secs(20);
/// A file may rest for so long on its way, and come so slowly on the whole, bytes a second.
const REST: Duration = Duration::from_secs(20);
const SLOWEST: f64 = 20_000.0;
/// What has come is written to disk when it is so much, bytes.
const WRITTEN_AT_ONCE: usize = 1 << 20;
/// So much room is left on the disk for everything else, bytes.
const ROOM_LEFT: u64 = 200_000_000;

/// A document as JSON. One that trickles in is cut off.
pub struct Document<T>(pub T);

impl<T: DeserializeOwned + 'static> FromRequest for Document<T> {
    type Error = actix_web::Error;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Self::Error>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Stream) -> Self::Future {
        let read = Json::<T>::from_request(request, payload);
        Box::pin(async {
            let read = tokio::time::timeout(DOCUMENT_WAIT, read).await.map_err(|_| ApiError::too_slow())?;
            read.map(|document| Self(document.into_inner()))
        })
    }
}

/// Writes a file that is brought to the disk as it comes, where it has no name and goes with the last that holds it.
///
/// # Errors
/// Refuses what is too large, too slow, or more than the disk has room for; what breaks off.
pub async fn spooled(mut body: Payload, largest: usize) -> Result<File, ApiError> {
    let begun = Instant::now();
    let mut file = aside(|| tempfile::tempfile().map_err(|e| ApiError::disk(&e))).await?;
    let (mut piece, mut length) = (Vec::new(), 0);
    while let Some(more) = tokio::time::timeout(REST, body.next()).await.map_err(|_| ApiError::too_slow())? {
        let more = more.map_err(|_| ApiError::broken_off())?;
        length += more.len();
        if length > largest {
            return Err(ApiError::too_large(largest));
        }
        let seconds = begun.elapsed().as_secs_f64();
        if seconds > REST.as_secs_f64() && clear_bend_core::cast::real(length) < SLOWEST * seconds {
            return Err(ApiError::too_slow());
        }
        piece.extend_from_slice(&more);
        if piece.len() >= WRITTEN_AT_ONCE {
            file = written(file, std::mem::take(&mut piece)).await?;
        }
    }
    written(file, piece).await
}

/// Refuses to write where the disk is nearly full.
///
/// # Errors
/// Says that it is.
pub fn look_for_room() -> Result<(), ApiError> {
    let room = nix::sys::statvfs::statvfs(&std::env::temp_dir())
        .map_or(u64::MAX, |at| at.blocks_available() * at.fragment_size());
    if room < ROOM_LEFT { Err(ApiError::full()) } else { Ok(()) }
}

async fn written(mut file: File, piece: Vec<u8>) -> Result<File, ApiError> {
    aside(move || {
        look_for_room()?;
        file.write_all(&piece).map_err(|e| ApiError::disk(&e))?;
        Ok(file)
    })
    .await
}
