//! Everything lasting: PostgreSQL through Diesel, and a PostgreSQL of our own where none is given.

mod demo;
mod documents;
mod error;
mod names;
mod own_postgres;
mod purge;
mod schema;
mod tracks;

pub use documents::{Document, MOST_DOCUMENTS, PAGE, Page, Saved, Search, Summary};
pub use error::{OwnPostgresError, StoreError};
pub use names::{LONGEST_NAME, LONGEST_TRACK_NAME};
pub use own_postgres::OwnPostgres;
pub use purge::KEPT_DAYS;
pub use tracks::{MOST_TRACKS, Track, TrackParts, TrackSound};

use std::path::{Path, PathBuf};
use std::time::Duration;

use diesel::migration::MigrationSource;
use diesel::pg::Pg;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, NopErrorHandler, Pool, PooledConnection};
use diesel::{PgConnection, RunQueryDsl};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use nix::sys::statvfs::statvfs;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// How long a request waits for a connection before it says that the database is down.
const CONNECTION_WAIT: Duration = Duration::from_secs(2);

/// The lock that a program holds while it brings the tables up to date: any number that nobody else uses in this database.
const OPENING: i64 = 0x0063_6c65_6172;
/// No statement takes longer: the largest track is written within it on a slow disk.
const STATEMENT_LIMIT: &str = "120s";

/// Gives every connection its limit.
#[derive(Debug)]
struct Patience;

impl CustomizeConnection<PgConnection, diesel::r2d2::Error> for Patience {
    fn on_acquire(&self, connection: &mut PgConnection) -> Result<(), diesel::r2d2::Error> {
        let limit = diesel::sql_query(format!("SET statement_timeout = '{STATEMENT_LIMIT}'"));
        limit.execute(connection).map(|_| ()).map_err(diesel::r2d2::Error::QueryError)
    }
}

/// Brings the tables up to date and loads the demo data if it never was.
fn brought_up_to_date(connection: &mut PgConnection) -> Result<(), StoreError> {
    let failed = |e: Box<dyn std::error::Error + Send + Sync>| StoreError::Database(e.to_string());
    let known = MigrationSource::<Pg>::migrations(&MIGRATIONS).map_err(failed)?;
    let known: Vec<_> = known.iter().map(|migration| migration.name().version().as_owned()).collect();
    let applied = connection.applied_migrations().map_err(failed)?;
    if let Some(newer) = applied.iter().find(|version| !known.contains(version)) {
        return Err(StoreError::Newer(newer.to_string()));
    }
    connection.run_pending_migrations(MIGRATIONS).map_err(failed)?;
    demo::load_once(connection)
}

/// The database. Cheap to clone: all clones share one pool of connections.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<PgConnection>>,
    /// The folder of the database where that is our own: there is to be room in it before anything is written.
    folder: Option<PathBuf>,
}

/// So much room is left for what PostgreSQL writes by itself, bytes.
const ROOM_LEFT: u64 = 20_000_000;

impl Store {
    /// Connects to a database, brings its tables up to date and loads the demo data if it never was.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database cannot be reached, [`StoreError::Database`] when its
    /// tables cannot be brought up to date.
    pub fn open(url: &str) -> Result<Self, StoreError> {
        let store = Self::connect(url);
        let mut connection = store.connection()?;
        // Of several programs that start at once, one brings the tables up to date while the others wait.
        let run = |sql: &str, connection: &mut PgConnection| diesel::sql_query(sql).execute(connection);
        run(&format!("SELECT pg_advisory_lock({OPENING})"), &mut connection)?;
        let opened = brought_up_to_date(&mut connection);
        run(&format!("SELECT pg_advisory_unlock({OPENING})"), &mut connection)?;
        opened?;
        drop(connection);
        store.purge()?;
        Ok(store)
    }

    /// A pool for a database that need not be up yet.
    fn connect(url: &str) -> Self {
        let pool = Pool::builder()
            .max_size(8)
            .min_idle(Some(0))
            .connection_timeout(CONNECTION_WAIT)
            .test_on_check_out(true)
            // What libpq says may hold parts of the address, and a password among them: it is told in words of ours.
            .error_handler(Box::new(NopErrorHandler))
            .connection_customizer(Box::new(Patience))
            .build_unchecked(ConnectionManager::new(url));
        Self { pool, folder: None }
    }

    /// The same store, whose database is kept in this folder.
    #[must_use]
    pub fn kept_in(self, folder: PathBuf) -> Self {
        Self { folder: Some(folder), ..self }
    }

    /// The folder of the database, where that is our own.
    #[must_use]
    pub fn folder(&self) -> Option<&Path> {
        self.folder.as_deref()
    }

    /// Refuses to write so many bytes where there is hardly room for them: a PostgreSQL without any room stops.
    fn look_for_room(&self, bytes: u64) -> Result<(), StoreError> {
        let Some(folder) = &self.folder else { return Ok(()) };
        // Written twice: into the log of changes, and into its place.
        let needed = ROOM_LEFT + 2 * bytes;
        let room = statvfs(folder).map_or(u64::MAX, |at| at.blocks_available() * at.fragment_size());
        if room < needed { Err(StoreError::Full) } else { Ok(()) }
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when it does not.
    pub fn check(&self) -> Result<(), StoreError> {
        self.connection().map(|_| ())
    }

    fn connection(&self) -> Result<PooledConnection<ConnectionManager<PgConnection>>, StoreError> {
        self.pool.get().map_err(|e| StoreError::unreachable(&e.to_string()))
    }
}
