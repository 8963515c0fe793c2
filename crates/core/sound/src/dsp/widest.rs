//! Loops at the full width of the processor.

/// Runs what it is given, compiled once for every processor and once for those that work on eight numbers at a time, where this is
/// one of them. What it calls must be inlined to be part of that. Both give the same numbers: neither changes the order of sums or
/// joins a product and a sum.
#[inline]
pub fn widest<T>(work: impl FnOnce() -> T) -> T {
    #[cfg(not(target_arch = "wasm32"))]
    return pulp::Arch::new().dispatch(work);
    #[cfg(target_arch = "wasm32")]
    work()
}
