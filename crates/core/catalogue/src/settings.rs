//! One declaration for the settings of an effect and their catalogue entries.

/// Declares a plain struct of settings together with the catalogue entry of each field, so that the two
/// cannot disagree: `PARAMS` lists them in the order of the fields, `from_values` reads them in that order.
#[macro_export]
macro_rules! settings {
    (
        $(#[$meta:meta])*
        pub struct $name:ident { $( $(#[$field_meta:meta])* $field:ident: $param:expr ),+ $(,)? }
    ) => {
        $(#[$meta])*
        #[derive(Debug, Clone, Copy, PartialEq)]
        pub struct $name { $( $(#[$field_meta])* pub $field: f64 ),+ }

        impl $name {
            /// The catalogue entries, in the order of the fields.
            pub const PARAMS: &'static [$crate::Param] =
                &[$( $crate::Param { id: stringify!($field), ..$param } ),+];

            /// Settings from values in catalogue order; a value that is not there takes its default.
            #[must_use]
            pub fn from_values(values: &[f64]) -> Self {
                let mut next = Self::PARAMS.iter().enumerate()
                    .map(|(i, param)| values.get(i).copied().unwrap_or(param.default));
                Self { $( $field: next.next().unwrap_or_default() ),+ }
            }
        }

        impl Default for $name {
            fn default() -> Self {
                Self::from_values(&[])
            }
        }
    };
}
