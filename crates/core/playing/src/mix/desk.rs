//! The sum of stems that play together, with what comes back from the paths that they share.

use std::borrow::Cow;

use super::{Audible, Send, SendsAs, Strip, audible};
use crate::path::{Path, Play};
use crate::render::{Run, tail_frames};
use clear_bend_sound::audio::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::region::{Region, cut, frames_of};

/// A stem as it plays.
#[derive(Debug, Clone)]
pub struct Playing<'a> {
    /// What it plays, all of it; none for a shared path, which plays what the others send to it.
    pub source: Option<Cow<'a, Buffer>>,
    /// What it runs through, with its sounds.
    pub path: Path,
    /// How it sits among the others.
    pub strip: Strip,
    /// What it sends to shared paths; a shared path sends nothing.
    pub sends: &'a [Send],
}

impl Playing<'_> {
    fn is_shared(&self) -> bool {
        self.source.is_none()
    }

    fn sends_to(&self, place: usize) -> impl Iterator<Item = &Send> {
        self.sends.iter().filter(move |send| send.to == place)
    }
}

/// Stems that play together, over as much of time as the one that is worked on.
#[derive(Debug, Clone)]
pub struct Desk<'a> {
    /// The stems.
    pub stems: Vec<Playing<'a>>,
    /// The one that is worked on: it is heard, and sends, whatever is soloed or muted. None of them where there is none in its place.
    pub work: usize,
    /// How they are played.
    pub play: Play,
    /// The part of the sources that is played.
    pub region: Option<Region>,
    /// How what is sent is heard.
    pub sends_as: SendsAs,
    /// The rate of all, Hz.
    pub rate_hz: u32,
}

/// All that plays beside the stem at work, as far as that has no part in it.
#[derive(Debug, Clone)]
pub struct Beside {
    /// The sum of the other stems, and of the shared paths to which the one at work sends nothing.
    pub backing: Buffer,
    /// What the others send to each of those to which it sends, by the place of the shared path.
    pub feeds: Vec<(usize, Buffer)>,
}

/// What goes from the stem at work to a shared path, and what comes back.
#[derive(Debug, Clone)]
pub struct ThereAndBack {
    /// The place of the shared path.
    pub to: usize,
    /// What the stem at work sends to it.
    pub sent: Buffer,
    /// What comes back into the sum, of all that is sent to it; silence where that is not heard.
    pub back: Buffer,
}

impl Desk<'_> {
    /// How long it plays, frames: as long as the stem at work or, where that is a shared path, the longest that sends to it.
    #[must_use]
    pub fn frames(&self) -> usize {
        let frames = |stem: &Playing| Some(frames_of(stem.source.as_ref()?, self.region).len());
        let own = self.stems.get(self.work).and_then(frames);
        let senders = self.stems.iter().filter(|stem| stem.sends_to(self.work).next().is_some());
        let any = || self.stems.iter().filter_map(frames).max();
        own.or_else(|| senders.filter_map(frames).max()).or_else(any).unwrap_or(0)
    }

    /// What the stems send to a shared path.
    #[must_use]
    pub fn sent_to(&self, place: usize) -> Buffer {
        let frames = self.frames();
        let mut sent = self.silence(frames);
        for (stem, audible) in self.stems.iter().zip(self.audible()) {
            if audible.sends && stem.sends_to(place).next().is_some() {
                let after = self.after(stem, frames);
                stem.sends_to(place).for_each(|send| add(&mut sent, &after, send.gains(&stem.strip)));
            }
        }
        sent
    }

    /// All that plays beside the stem at work.
    #[must_use]
    pub fn beside(&self) -> Beside {
        let frames = self.frames();
        let audible = self.audible();
        let at_work = self.stems.get(self.work);
        let mut backing = self.silence(frames);
        let mut sent: Vec<Option<Buffer>> = vec![None; self.stems.len()];
        for (i, (stem, audible)) in self.stems.iter().zip(&audible).enumerate() {
            let sends = || stem.sends.iter().filter(|send| audible.sends && send.to != self.work);
            if i == self.work || stem.is_shared() || !(audible.heard || sends().next().is_some()) {
                continue;
            }
            let after = self.after(stem, frames);
            if audible.heard {
                add(&mut backing, &after, stem.strip.gains());
            }
            for send in sends() {
                let gains = send.gains(&stem.strip);
                if self.sends_as == SendsAs::Shared {
                    add(sent[send.to].get_or_insert_with(|| self.silence(frames)), &after, gains);
                } else {
                    let mut own = self.silence(frames);
                    add(&mut own, &after, gains);
                    self.come_back(send.to, &own, &mut backing);
                }
            }
        }
        let mut feeds = Vec::new();
        for (place, sent) in sent.into_iter().enumerate() {
            if at_work.is_some_and(|stem| stem.sends_to(place).next().is_some()) {
                feeds.push((place, sent.unwrap_or_else(|| self.silence(frames))));
            } else if let Some(sent) = sent {
                self.come_back(place, &sent, &mut backing);
            }
        }
        Beside { backing, feeds }
    }

    /// Everything together where the stem at work gives this after its path, until it is 60 dB under its loudest, and what goes from it
    /// to shared paths and back.
    #[must_use]
    pub fn sum(&self, beside: &Beside, after: &Buffer) -> (Buffer, Vec<ThereAndBack>) {
        let mut sum = beside.backing.clone();
        let Some(stem) = self.stems.get(self.work) else { return (sum, Vec::new()) };
        add(&mut sum, after, stem.strip.gains());
        let mut ways = Vec::new();
        for (place, feed) in &beside.feeds {
            let mut sent = self.silence(0);
            stem.sends_to(*place).for_each(|send| add(&mut sent, after, send.gains(&stem.strip)));
            let (mut all, mut back) = (feed.clone(), self.silence(0));
            add(&mut all, &sent, [1.0; 2]);
            self.come_back(*place, &all, &mut back);
            add(&mut sum, &back, [1.0; 2]);
            ways.push(ThereAndBack { to: *place, sent, back });
        }
        let frames = self.frames();
        if sum.frames() > frames {
            sum.resize(frames + tail_frames(&sum, frames));
        }
        (sum, ways)
    }

    /// What comes into the path of the stem at work.
    #[must_use]
    pub fn before(&self) -> Buffer {
        let frames = self.frames();
        let source = self.stems.get(self.work).and_then(|stem| stem.source.as_ref());
        source.map_or_else(|| self.sent_to(self.work), |source| self.passage(source, frames))
    }

    /// What leaves the path of the stem at work, with its tail if it is played once.
    #[must_use]
    pub fn at_work(&self) -> Buffer {
        let before = self.before();
        self.stems.get(self.work).map_or_else(|| before.clone(), |stem| self.through(stem, &before))
    }

    /// Adds what a shared path makes of all that is sent to it, if that is heard.
    fn come_back(&self, place: usize, sent: &Buffer, sum: &mut Buffer) {
        let heard = self.audible().get(place).is_some_and(|audible| audible.heard);
        if let Some(shared) = self.stems.get(place).filter(|stem| heard && stem.is_shared()) {
            add(sum, &self.through(shared, sent), shared.strip.gains());
        }
    }

    /// What leaves the path of a stem; nothing for a shared one.
    fn after(&self, stem: &Playing, frames: usize) -> Buffer {
        match &stem.source {
            Some(source) => self.through(stem, &self.passage(source, frames)),
            None => self.silence(frames),
        }
    }

    fn passage(&self, source: &Buffer, frames: usize) -> Buffer {
        let mut passage = cut(source, self.region).into_stereo();
        passage.resize(frames);
        passage
    }

    fn through(&self, stem: &Playing, sound: &Buffer) -> Buffer {
        let mut run = Run::<()>::whole();
        run.render(&stem.path, sound, self.play, |_| {}).with_tail().into_owned()
    }

    fn audible(&self) -> Vec<Audible> {
        let strips: Vec<_> = self.stems.iter().map(|stem| (stem.strip, stem.is_shared())).collect();
        let mut audible = audible(&strips);
        if let Some(at_work) = audible.get_mut(self.work) {
            *at_work = Audible { heard: true, sends: true };
        }
        audible
    }

    fn silence(&self, frames: usize) -> Buffer {
        let mut silence = Buffer::empty(self.rate_hz).into_stereo();
        silence.resize(frames);
        silence
    }
}

/// Adds a sound to a stereo sum with gains for left and right; the sum becomes as long as what is longer.
pub fn add(sum: &mut Buffer, sound: &Buffer, gains: [f64; 2]) {
    if sum.frames() < sound.frames() {
        sum.resize(sound.frames());
    }
    let last = sound.channels().len() - 1;
    for (c, (out, gain)) in sum.channels_mut().iter_mut().zip(gains).enumerate() {
        let gain = cast::sample(gain);
        out.iter_mut().zip(&sound.channels()[c.min(last)]).for_each(|(out, x)| *out += gain * x);
    }
}
