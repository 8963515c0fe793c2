//! Numbers as they are written.

/// A number with a true minus sign and a fixed number of decimals; never "−0.0".
#[must_use]
pub fn decimal(value: f64, decimals: usize) -> String {
    let text = format!("{:.*}", decimals, value.abs());
    let zero = text.chars().all(|c| c == '0' || c == '.');
    if value < 0.0 && !zero { format!("\u{2212}{text}") } else { text }
}
