//! The connections: who is at the other end, how many there are, and how long one may hold what it does not use.

use std::any::Any;
use std::net::{Shutdown, TcpStream};
use std::os::fd::AsFd;
use std::pin::Pin;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::task::{Context, Poll};
use std::time::Duration;

use actix_web::HttpMessage;
use actix_web::dev::{Extensions, Payload, ServiceRequest, ServiceResponse};
use actix_web::error::PayloadError;
use actix_web::http::{ConnectionType, header};
use actix_web::web::Bytes;
use futures_util::{Stream, StreamExt};
use nix::sys::resource::{Resource, getrlimit, setrlimit};
use nix::sys::socket::{setsockopt, sockopt::TcpUserTimeout};

/// A client that takes in nothing of what it is sent is left after this time, ms.
const NOTHING_TAKEN_MS: u32 = 30_000;
/// A body that nobody reads may go on for so long after the answer, and where there are many connections.
const UNREAD: Duration = Duration::from_secs(1);
const UNREAD_OF_MANY: Duration = Duration::from_millis(100);
/// So many connections are answered at once at most, and so many descriptors are kept for everything else. Each connection has two.
const MOST: usize = 1000;
const OTHERS: usize = 200;

/// How many connections are open.
static OPEN: AtomicUsize = AtomicUsize::new(0);
/// Over how many only the health of the program is told.
static MANY: AtomicUsize = AtomicUsize::new(MOST);

/// Lets the program open as many files as it may, and gives how many connections each of so many workers may hold: of those that there is
/// room for, a quarter is kept for questions after its health.
pub fn limits(workers: usize) -> usize {
    let descriptors = getrlimit(Resource::RLIMIT_NOFILE).map_or(1024, |(soft, hard)| {
        let raised = setrlimit(Resource::RLIMIT_NOFILE, hard, hard).map_or(soft, |()| hard);
        usize::try_from(raised).unwrap_or(usize::MAX)
    });
    let room = (descriptors.saturating_sub(OTHERS) / 2).clamp(8, 2 * MOST);
    MANY.store((room - room / 4).min(MOST), Ordering::Relaxed);
    room.div_ceil(workers)
}

/// The other end of a connection. The server itself does not look whether it is still there while an answer is being made.
#[derive(Debug, Clone)]
pub struct Client(Arc<Counted>);

#[derive(Debug)]
struct Counted(TcpStream);

impl Drop for Counted {
    fn drop(&mut self) {
        OPEN.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Client {
    /// Keeps hold of a connection that has been opened; handed to the server as its `on_connect`.
    pub fn keep(connection: &dyn Any, data: &mut Extensions) {
        if let Some(stream) = connection.downcast_ref::<actix_web::rt::net::TcpStream>()
            && let Ok(own) = stream.as_fd().try_clone_to_owned()
        {
            // Where the system does not know this, a slow client is still cut off by what sends to it.
            let _ = setsockopt(&own, TcpUserTimeout, &NOTHING_TAKEN_MS);
            OPEN.fetch_add(1, Ordering::Relaxed);
            data.insert(Self(Arc::new(Counted(own.into()))));
        }
    }

    /// Whether there are so many that no more work is taken on.
    pub fn are_many() -> bool {
        OPEN.load(Ordering::Relaxed) > MANY.load(Ordering::Relaxed)
    }

    /// Whether it has been closed there: then there is nothing to be read, and never will be.
    pub fn has_left(&self) -> bool {
        match self.0.0.peek(&mut [0]) {
            Ok(count) => count == 0,
            Err(error) => error.kind() != std::io::ErrorKind::WouldBlock,
        }
    }

    /// Ends the connection, whatever is on its way.
    pub fn leave(&self) {
        // It may have ended by itself.
        let _ = self.0.0.shutdown(Shutdown::Both);
    }
}

/// Whether the body of a request is read to its end.
pub struct Read {
    client: Option<Client>,
    /// None for a request without a body.
    whole: Option<Arc<AtomicBool>>,
}

impl Read {
    /// Watches a request on its way to whoever answers it.
    pub fn watch(request: &mut ServiceRequest) -> Self {
        let headers = request.headers();
        let length = headers.get(header::CONTENT_LENGTH).and_then(|length| length.to_str().ok());
        let has_body =
            headers.contains_key(header::TRANSFER_ENCODING) || length.is_some_and(|length| length != "0");
        if !has_body {
            return Self { client: None, whole: None };
        }
        let whole = Arc::new(AtomicBool::new(false));
        let body = Body { inner: request.take_payload(), whole: Arc::clone(&whole) };
        request.set_payload(Payload::Stream { payload: Box::pin(body) });
        Self { client: request.request().conn_data::<Client>().cloned(), whole: Some(whole) }
    }

    /// Once it is answered: a connection whose body nobody has read to its end is closed, and cut off if more of it comes for long.
    pub fn end<B>(self, response: &mut ServiceResponse<B>) {
        if self.whole.is_none_or(|whole| whole.load(Ordering::Relaxed)) {
            return;
        }
        response.response_mut().head_mut().set_connection_type(ConnectionType::Close);
        if let Some(client) = self.client {
            actix_web::rt::spawn(async move {
                tokio::time::sleep(if Client::are_many() { UNREAD_OF_MANY } else { UNREAD }).await;
                client.leave();
            });
        }
    }
}

/// A body that tells when it has been read.
struct Body {
    inner: Payload,
    whole: Arc<AtomicBool>,
}

impl Stream for Body {
    type Item = Result<Bytes, PayloadError>;

    fn poll_next(mut self: Pin<&mut Self>, context: &mut Context<'_>) -> Poll<Option<Self::Item>> {
        let next = self.inner.poll_next_unpin(context);
        if let Poll::Ready(None) = next {
            self.whole.store(true, Ordering::Relaxed);
        }
        next
    }
}
