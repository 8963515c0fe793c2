//! Long work: on threads of its own, in a queue of its own, and only for as long as somebody waits for it.

use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::pin::pin;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, LazyLock, Mutex, MutexGuard, PoisonError, mpsc};
use std::time::Duration;

use actix_web::{HttpRequest, web};
use tokio::sync::{Semaphore, SemaphorePermit, oneshot};

use super::ApiError;
use crate::connections::Client;

/// The line of all that hold a sound in memory: exports, and responses that are made, brought and measured. One at a time.
pub static SOUNDS: Queue = Queue::new(PLACES);
/// So many may wait in a line: a school's worth, while a connection is left for each.
pub const PLACES: usize = 600;

/// How often it is looked whether the client of long work is still there.
const LOOKED_EVERY: Duration = Duration::from_millis(250);

/// A line in which so many wait at most, in the order in which they have come.
pub struct Queue {
    turns: Semaphore,
    places: usize,
    waiting: Mutex<Vec<Waiting>>,
    next: AtomicU64,
}

/// Somebody in the line, or at work.
struct Waiting {
    number: u64,
    /// The word by which the page asks for its place.
    ticket: Option<Ticket>,
}

/// A word of the page's own for one request.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ticket(String);

impl Ticket {
    /// Accepts up to 64 letters, digits and hyphens.
    pub fn of(text: &str) -> Option<Self> {
        let plain = text.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
        (plain && (1..=64).contains(&text.len())).then(|| Self(text.to_owned()))
    }

    /// The one in the address of a request, `?ticket=...`; none where there is none.
    pub fn in_address(request: &HttpRequest) -> Option<Self> {
        let mut parts = request.query_string().split('&');
        parts.find_map(|part| part.strip_prefix("ticket=")).and_then(Self::of)
    }
}

/// A turn: whoever holds it works.
pub struct Turn<'a> {
    queue: &'a Queue,
    number: u64,
    _turn: Option<SemaphorePermit<'a>>,
}

impl Drop for Turn<'_> {
    fn drop(&mut self) {
        self.queue.line().retain(|waiting| waiting.number != self.number);
    }
}

impl Queue {
    /// One at a time, and so many behind it.
    pub const fn new(places: usize) -> Self {
        Self {
            turns: Semaphore::const_new(1),
            places,
            waiting: Mutex::new(Vec::new()),
            next: AtomicU64::new(0),
        }
    }

    /// Whoever was at work in the line and broke has left it in order.
    fn line(&self) -> MutexGuard<'_, Vec<Waiting>> {
        self.waiting.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Waits for a turn. Who does not wait any more leaves the line.
    ///
    /// # Errors
    /// Refuses where all places are taken.
    pub async fn turn(&self, ticket: Option<Ticket>) -> Result<Turn<'_>, ApiError> {
        let mut place = {
            let mut line = self.line();
            if line.len() > self.places {
                return Err(ApiError::busy());
            }
            let number = self.next.fetch_add(1, Ordering::Relaxed);
            line.push(Waiting { number, ticket });
            Turn { queue: self, number, _turn: None }
        };
        place._turn = Some(self.turns.acquire().await.map_err(|_| ApiError::stopping())?);
        Ok(place)
    }

    /// How many are before a ticket; none where it is not in the line.
    pub fn ahead(&self, ticket: &Ticket) -> Option<usize> {
        self.line().iter().position(|waiting| waiting.ticket.as_ref() == Some(ticket))
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
    let wanted = Wanted::by(request);
    let at_work = wanted.clone();
    until_done(request, &wanted, aside(move || begun(work, &at_work))).await
}

/// Does what holds a sound, in its turn in the line, on the one thread for that, and only while its client waits for it.
pub async fn in_turn<T: Send + 'static>(
    request: &HttpRequest,
    work: impl FnOnce(&Wanted) -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    let _turn = SOUNDS.turn(Ticket::in_address(request)).await?;
    let wanted = Wanted::by(request);
    let at_work = wanted.clone();
    let (told, done) = oneshot::channel();
    let work = move || {
        let done = catch_unwind(AssertUnwindSafe(|| begun(work, &at_work)));
        // Who has gone needs no answer.
        let _ = told.send(done.unwrap_or_else(|_| Err(ApiError::broke())));
    };
    SOUND_THREAD.send(Box::new(work)).map_err(|_| ApiError::stopping())?;
    until_done(request, &wanted, async { done.await.map_err(|_| ApiError::stopping())? }).await
}

/// Begins work whose client is still there.
fn begun<T>(work: impl FnOnce(&Wanted) -> Result<T, ApiError>, wanted: &Wanted) -> Result<T, ApiError> {
    wanted.go_on();
    work(wanted)
}

type Work = Box<dyn FnOnce() + Send>;

/// All work with sounds is done on one thread: what a thread keeps for the next time, as plans of transforms, is kept once.
static SOUND_THREAD: LazyLock<mpsc::Sender<Work>> = LazyLock::new(|| {
    let (sender, receiver) = mpsc::channel::<Work>();
    std::thread::spawn(move || receiver.into_iter().for_each(|work| work()));
    sender
});

/// Waits for work, and tells it when its client has gone.
async fn until_done<T>(
    request: &HttpRequest,
    wanted: &Wanted,
    work: impl Future<Output = Result<T, ApiError>>,
) -> Result<T, ApiError> {
    let client = request.conn_data::<Client>();
    let mut work = pin!(work);
    loop {
        match tokio::time::timeout(LOOKED_EVERY, &mut work).await {
            Ok(done) => return done,
            Err(_) if client.is_some_and(Client::has_left) => wanted.0.store(true, Ordering::Relaxed),
            Err(_) => {}
        }
    }
}

/// Whether work is still wanted.
#[derive(Clone)]
pub struct Wanted(Arc<AtomicBool>);

impl Wanted {
    /// Wanted by whoever has sent a request, if they are still there.
    fn by(request: &HttpRequest) -> Self {
        let has_left = request.conn_data::<Client>().is_some_and(Client::has_left);
        Self(Arc::new(AtomicBool::new(has_left)))
    }

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
        let ticket = |text: &str| Ticket::of(text);
        let first = QUEUE.turn(ticket("a")).await.unwrap();
        let wait = |text| tokio::time::timeout(Duration::from_millis(50), QUEUE.turn(ticket(text)));
        let ahead = async { ["a", "b", "c", "d"].map(|text| QUEUE.ahead(&Ticket::of(text).unwrap())) };
        let (second, third, fourth, places) = tokio::join!(wait("b"), wait("c"), wait("d"), ahead);
        assert!(second.is_err() && third.is_err());
        assert!(fourth.is_ok_and(|refused| refused.is_err()));
        assert_eq!(places, [Some(0), Some(1), Some(2), None]);
        drop(first);
        assert!(QUEUE.turn(None).await.is_ok());
        assert!(QUEUE.line().is_empty());
    }

    #[test]
    fn a_ticket_is_a_plain_word() {
        for text in ["", "a b", "../a", &"x".repeat(65)] {
            assert_eq!(Ticket::of(text), None);
        }
    }
}
