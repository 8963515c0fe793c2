//! Long work: on threads of its own, in a queue of its own, and only for as long as somebody waits for it.

use std::any::Any;
use std::net::TcpStream;
use std::os::fd::AsFd;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::pin::pin;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use actix_web::dev::Extensions;
use actix_web::{HttpRequest, web};
use tokio::sync::{Semaphore, SemaphorePermit};

use super::ApiError;

/// How often it is looked whether the client of long work is still there.
const LOOKED_EVERY: Duration = Duration::from_millis(250);

/// A queue in which so many wait at most.
pub struct Queue {
    turns: Semaphore,
    places: Semaphore,
}

impl Queue {
    /// One at a time, and so many behind it.
    pub const fn new(places: usize) -> Self {
        Self { turns: Semaphore::const_new(1), places: Semaphore::const_new(places + 1) }
    }

    /// Waits for a turn. Who does not wait any more leaves the queue.
    ///
    /// # Errors
    /// Refuses where all places are taken.
    pub async fn turn(&self) -> Result<[SemaphorePermit<'_>; 2], ApiError> {
        let place = self.places.try_acquire().map_err(|_| ApiError::busy())?;
        let turn = self.turns.acquire().await.map_err(|_| ApiError::stopping())?;
        Ok([turn, place])
    }
}

/// Runs long work on a thread of its own. A fault in it is not the end of the server.
pub async fn aside<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    let guarded = move || catch_unwind(AssertUnwindSafe(work)).unwrap_or_else(|_| Err(ApiError::broke()));
    web::block(guarded).await.map_err(|_| ApiError::stopping())?
}

/// The same for work that is left when nobody waits for it any more: when its client has gone.
pub async fn while_wanted<T: Send + 'static>(
    request: &HttpRequest,
    work: impl FnOnce(&Wanted) -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    let client = request.conn_data::<Client>();
    let has_left = || client.is_some_and(Client::has_left);
    let wanted = Wanted(Arc::new(AtomicBool::new(has_left())));
    let at_work = wanted.clone();
    let mut work = pin!(aside(move || {
        at_work.go_on();
        work(&at_work)
    }));
    loop {
        match tokio::time::timeout(LOOKED_EVERY, &mut work).await {
            Ok(done) => return done,
            Err(_) if has_left() => wanted.0.store(true, Ordering::Relaxed),
            Err(_) => {}
        }
    }
}

/// The other end of a connection. The server itself does not look whether it is still there while an answer is being made.
#[derive(Debug)]
pub struct Client(TcpStream);

impl Client {
    /// Keeps hold of a connection that has been opened; handed to the server as its `on_connect`.
    pub fn keep(connection: &dyn Any, data: &mut Extensions) {
        if let Some(stream) = connection.downcast_ref::<actix_web::rt::net::TcpStream>()
            && let Ok(own) = stream.as_fd().try_clone_to_owned()
        {
            data.insert(Self(own.into()));
        }
    }

    /// Whether it has been closed there: then there is nothing to be read, and never will be.
    fn has_left(&self) -> bool {
        match self.0.peek(&mut [0]) {
            Ok(count) => count == 0,
            Err(error) => error.kind() != std::io::ErrorKind::WouldBlock,
        }
    }
}

/// Whether work is still wanted.
#[derive(Clone)]
pub struct Wanted(Arc<AtomicBool>);

impl Wanted {
    /// Whether somebody still waits for it.
    pub fn still(&self) -> bool {
        !self.0.load(Ordering::Relaxed)
    }

    /// Leaves the work if nobody waits for it any more. There may be no way to tell that to all that is being called, so the stack
    /// is unwound, without a word in the log.
    pub fn go_on(&self) {
        if !self.still() {
            resume_unwind(Box::new("nobody waits for this any more"));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[actix_web::test]
    async fn a_queue_has_places_and_gives_them_back() {
        static QUEUE: Queue = Queue::new(2);
        let first = QUEUE.turn().await.unwrap();
        let wait = || tokio::time::timeout(Duration::from_millis(50), QUEUE.turn());
        let (second, third, fourth) = tokio::join!(wait(), wait(), wait());
        assert!(second.is_err() && third.is_err());
        assert!(fourth.is_ok_and(|refused| refused.is_err()));
        drop(first);
        assert!(QUEUE.turn().await.is_ok());
    }
}
