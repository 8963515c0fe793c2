//! The rights of root, given up before anything is served.

use std::ffi::CString;

use nix::unistd::{User, geteuid, initgroups, setgid, setuid};

use crate::fault::Fault;

/// The user that we become with a PostgreSQL of our own, which runs as it, too.
pub const WITH_OWN_DATABASE: &str = "postgres";
/// The user that we become where the database is somebody else's.
pub const WITH_GIVEN_DATABASE: &str = "nobody";

/// Whether this program has the rights of root.
#[must_use]
pub fn are_roots() -> bool {
    geteuid().is_root()
}

/// Becomes another user, for good; for a program that is not root's, nothing changes.
pub fn give_up(user: &str) -> Result<(), Fault> {
    if !are_roots() {
        return Ok(());
    }
    let refused = |why: String| {
        Fault::Failure(format!(
            "the rights of root cannot be given up ({why}); accepted: to be started by another user"
        ))
    };
    let user =
        User::from_name(user).ok().flatten().ok_or_else(|| refused(format!("there is no user {user}")))?;
    let name = CString::new(user.name).map_err(|e| refused(e.to_string()))?;
    initgroups(&name, user.gid)
        .and_then(|()| setgid(user.gid))
        .and_then(|()| setuid(user.uid))
        .map_err(|e| refused(e.to_string()))
}
