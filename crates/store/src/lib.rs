//! Everything lasting: PostgreSQL through Diesel, and a PostgreSQL of our own where none is given.

mod demo;
mod documents;
mod error;
mod own_postgres;
mod schema;
mod tracks;

pub use documents::{Document, LONGEST_NAME, MOST_DOCUMENTS, Saved, Summary};
pub use error::{OwnPostgresError, StoreError};
pub use own_postgres::OwnPostgres;
pub use tracks::{LONGEST_TRACK_NAME, MOST_TRACKS, Track, TrackSamples};

use std::time::Duration;

use diesel::PgConnection;
use diesel::r2d2::{ConnectionManager, Pool, PooledConnection};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// How long a request waits for a connection before it says that the database is down.
const CONNECTION_WAIT: Duration = Duration::from_secs(2);

/// The database. Cheap to clone: all clones share one pool of connections.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<PgConnection>>,
}

impl Store {
    /// Connects to a database, brings its tables up to date and loads the demo data if it never was.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database cannot be reached, [`StoreError::Database`] when its
    /// tables cannot be brought up to date.
    pub fn open(url: &str) -> Result<Self, StoreError> {
        let store = Self::connect(url);
        let mut connection = store.connection()?;
        connection.run_pending_migrations(MIGRATIONS).map_err(|e| StoreError::Database(e.to_string()))?;
        demo::load_once(&mut connection)?;
        Ok(store)
    }

    /// A pool for a database that need not be up yet.
    fn connect(url: &str) -> Self {
        let pool = Pool::builder()
            .max_size(8)
            .min_idle(Some(0))
            .connection_timeout(CONNECTION_WAIT)
            .test_on_check_out(true)
            .build_unchecked(ConnectionManager::new(url));
        Self { pool }
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when it does not.
    pub fn check(&self) -> Result<(), StoreError> {
        self.connection().map(|_| ())
    }

    fn connection(&self) -> Result<PooledConnection<ConnectionManager<PgConnection>>, StoreError> {
        self.pool.get().map_err(|e| StoreError::Unavailable(e.to_string()))
    }
}
