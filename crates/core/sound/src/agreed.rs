//! One number for what two sides of the program must agree on.

/// FNV-1a of 32 bits (Fowler, Noll and Vo; RFC 9923): another text is another number, but by a rare chance.
#[must_use]
pub const fn number(text: &[u8]) -> u32 {
    let (mut hash, mut at) = (0x811c_9dc5_u32, 0);
    while at < text.len() {
        hash = (hash ^ text[at] as u32).wrapping_mul(0x0100_0193);
        at += 1;
    }
    hash
}

#[cfg(test)]
mod tests {
    use super::number;

    /// The test vectors of the RFC, from memory.
    #[test]
    fn numbers_are_those_of_the_tables() {
        assert_eq!(number(b""), 0x811c_9dc5);
        assert_eq!(number(b"a"), 0xe40c_292c);
        assert_eq!(number(b"foobar"), 0xbf9c_f968);
    }
}
