//! What surrounds a block that a processor gets: its place in the passage, and the sounds beside it.

/// Where a block lies, and what sounds with it.
#[derive(Debug, Clone, Copy, Default)]
pub struct Around<'a> {
    /// The frame of the passage that its first sample belongs to, so that what moves follows the passage and not the clock:
    /// before the passage it is negative. A block does not go over the seam of a loop.
    pub at: i64,
    sounds: &'a [SoundBlock],
    from: usize,
    frames: usize,
}

impl<'a> Around<'a> {
    /// A block that begins at a frame of the passage, and so many frames of the blocks of its sounds, which begin at `from`
    /// in them.
    #[must_use]
    pub fn new(at: i64, sounds: &'a [SoundBlock], from: usize, frames: usize) -> Self {
        Self { at, sounds, from, frames }
    }

    /// The block of the sound in a slot that runs in step with the passage; none where the stage has no such sound.
    #[must_use]
    pub fn sound(&self, slot: usize) -> Option<Beside<'a>> {
        let SoundBlock { channels, count } = self.sounds.get(slot)?;
        let [left, right] = channels.each_ref().map(|c| c.get(self.from..self.from + self.frames));
        (*count > 0).then_some(Beside { channels: [left?, right?], count: *count })
    }
}

/// The block of a sound, as long as that of the signal.
#[derive(Debug, Clone, Copy)]
pub struct Beside<'a> {
    channels: [&'a [f32]; 2],
    count: usize,
}

impl<'a> Beside<'a> {
    /// A sound of one channel.
    #[must_use]
    pub fn mono(samples: &'a [f32]) -> Self {
        Self { channels: [samples; 2], count: 1 }
    }

    /// Its channels: one or two, as many as the sound has.
    #[must_use]
    pub fn channels(&self) -> &[&'a [f32]] {
        &self.channels[..self.count]
    }

    /// Some of its frames.
    #[must_use]
    pub fn part(&self, frames: std::ops::Range<usize>) -> Self {
        Self { channels: self.channels.map(|channel| &channel[frames.clone()]), ..*self }
    }
}

/// Room for the block of a sound.
#[derive(Debug, Clone)]
pub struct SoundBlock {
    channels: [Vec<f32>; 2],
    count: usize,
}

impl SoundBlock {
    /// Room for so many frames, without a sound.
    #[must_use]
    pub fn new(max_block: usize) -> Self {
        Self { channels: [vec![0.0; max_block], vec![0.0; max_block]], count: 0 }
    }

    /// Reads so many frames of a sound from a place of it on; outside of it, it is silent. Without a sound the room is empty.
    pub fn read(&mut self, sound: Option<&[Vec<f32>]>, place: i64, frames: usize) {
        let sound = sound.unwrap_or(&[]);
        self.count = sound.len().min(2);
        for (block, samples) in self.channels.iter_mut().zip(sound) {
            let before = clear_bend_sound::cast::before(place).min(frames);
            let from = clear_bend_sound::cast::after(place).min(samples.len());
            let there = (frames - before).min(samples.len() - from);
            block[..before].fill(0.0);
            block[before..before + there].copy_from_slice(&samples[from..from + there]);
            block[before + there..frames].fill(0.0);
        }
    }
}
