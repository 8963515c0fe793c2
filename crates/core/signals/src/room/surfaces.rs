//! Kinds of surface and how much sound they take.

/// A kind of surface.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Surface {
    /// Its name.
    pub name: &'static str,
    /// The share of the sound that it takes, in octaves from 125 Hz to 4 kHz.
    pub absorption: [f64; 6],
}

/// Kinds of surface, with the values that tables of building acoustics print (M. D. Egan, "Architectural Acoustics", 1988;
/// M. Vorländer, "Auralization", 2008, annex; both from memory); mineral wool of 50 mm. Another sample of the same kind may differ by a few hundredths.
pub const SURFACES: [Surface; 12] = [
    Surface { name: "concrete", absorption: [0.01, 0.01, 0.02, 0.02, 0.02, 0.03] },
    Surface { name: "painted brick", absorption: [0.01, 0.01, 0.02, 0.02, 0.02, 0.03] },
    Surface { name: "plaster on stone", absorption: [0.02, 0.03, 0.03, 0.03, 0.04, 0.07] },
    Surface { name: "plasterboard on studs", absorption: [0.29, 0.10, 0.05, 0.04, 0.07, 0.09] },
    Surface { name: "wood panels over air", absorption: [0.28, 0.22, 0.17, 0.09, 0.10, 0.11] },
    Surface { name: "wooden floor on joists", absorption: [0.15, 0.11, 0.10, 0.07, 0.06, 0.07] },
    Surface { name: "window glass", absorption: [0.35, 0.25, 0.18, 0.12, 0.07, 0.04] },
    Surface { name: "carpet on felt", absorption: [0.08, 0.24, 0.57, 0.69, 0.71, 0.73] },
    Surface { name: "heavy curtain in folds", absorption: [0.14, 0.35, 0.55, 0.72, 0.70, 0.65] },
    Surface { name: "mineral wool", absorption: [0.22, 0.60, 0.92, 0.90, 0.88, 0.88] },
    Surface { name: "people on soft seats", absorption: [0.60, 0.74, 0.88, 0.96, 0.93, 0.85] },
    Surface { name: "water", absorption: [0.01, 0.01, 0.01, 0.02, 0.02, 0.03] },
];
