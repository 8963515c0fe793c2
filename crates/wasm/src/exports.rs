//! Exports that are called without any generated glue, and the list of them.

/// An export of plain numbers.
#[derive(Debug, Clone, Copy)]
pub struct Export {
    /// Its name.
    pub name: &'static str,
    /// Name and Rust type of everything that it takes.
    pub takes: &'static [(&'static str, &'static str)],
    /// The Rust type of its answer; empty where it gives none.
    pub answers: &'static str,
}

/// Declares exports, and lists them as `EXPORTS`.
macro_rules! exports {
    ($($(#[$doc:meta])* fn $name:ident($($arg:ident: $takes:ty),* $(,)?) $(-> $answers:ty)? $body:block)*) => {
        $($(#[$doc])* #[wasm_bindgen] pub fn $name($($arg: $takes),*) $(-> $answers)? $body)*

        /// All of them.
        pub const EXPORTS: &[crate::exports::Export] = &[$(crate::exports::Export {
            name: stringify!($name),
            takes: &[$((stringify!($arg), stringify!($takes))),*],
            answers: concat!($(stringify!($answers))?),
        }),*];
    };
}
pub(crate) use exports;
