//! The icons that windows bring along (EWMH, `_NET_WM_ICON`).

use std::hash::{Hash, Hasher};

use jovrik_core::desk::{self, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEvent};
use jovrik_draw::RawImage;
use jovrik_text::limits;
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt, Window};

use super::X11;
use crate::Error;

/// What the names begin with under which they are kept.
const HELD: &str = "\0window/";
/// The size that is looked for, in pixels: the next larger one, else the largest.
const WANTED: u32 = 48;
/// As large as one is kept.
const KEPT: u32 = 96;

/// The icon that is nearest to a size, of all that a property holds: width, height, and a number for each pixel, opacity first.
fn best(numbers: &[u32]) -> Option<(u32, u32, &[u32])> {
    let mut all = Vec::new();
    let mut rest = numbers;
    while let [width, height, pixels @ ..] = rest {
        let Some(count) = (*width as usize).checked_mul(*height as usize).filter(|count| (1..=pixels.len()).contains(count))
        else {
            break;
        };
        all.push((*width, *height, &pixels[..count]));
        rest = &pixels[count..];
    }
    let side = |one: &(u32, u32, &[u32])| one.0.max(one.1);
    let larger = all.iter().filter(|one| side(one) >= WANTED).min_by_key(|one| side(one));
    larger.or_else(|| all.iter().max_by_key(|one| side(one))).copied()
}

/// The picture of it: its size, and red, green, blue and opacity of each pixel.
fn picture(numbers: &[u32]) -> Option<((u32, u32), Vec<u8>)> {
    let (width, height, pixels) = best(numbers)?;
    let bytes: Vec<u8> = pixels.iter().flat_map(|pixel| pixel.rotate_left(8).to_be_bytes()).collect();
    let (width, height) = (i32::try_from(width).ok()?, i32::try_from(height).ok()?);
    RawImage { width, height, stride: width.checked_mul(4)?, alpha: true, bytes: &bytes }.picture(KEPT)
}

impl X11 {
    /// The icons of windows that came, or have another one: all are asked at once.
    pub(super) fn own_icons(&mut self, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let (c, icon) = (&self.server.connection, self.server.names._NET_WM_ICON);
        let longs = (limits::WINDOW_ICON_BYTES / 4) as u32;
        let known = |window: &Window| desktop.desk().windows.get(&WindowId(*window)).map(|window| window.facts.clone());
        let asked: Vec<_> = std::mem::take(&mut self.icons_stale)
            .into_iter()
            .filter_map(|window| Some((window, known(&window)?)))
            .map(|(window, facts)| Ok((window, facts, c.get_property(false, window, icon, AtomEnum::CARDINAL, 0, longs)?)))
            .collect::<Result<_, Error>>()?;
        let mut events = Vec::new();
        for (window, facts, answer) in asked {
            let numbers: Vec<u32> =
                answer.reply().ok().and_then(|reply| reply.value32().map(Iterator::collect)).unwrap_or_default();
            let Some((size, pixels)) = picture(&numbers) else { continue };
            let mut hasher = std::hash::DefaultHasher::new();
            (size, &pixels).hash(&mut hasher);
            // Windows of one program mostly bring the same.
            let name = format!("{HELD}{:016x}", hasher.finish());
            if facts.picture.as_ref() == Some(&name) {
                continue;
            }
            self.painter.brush().pictures.insert(&name, size, pixels);
            let facts = desk::WindowFacts { picture: Some(name), ..facts };
            events.push(DesktopEvent::Wm(desk::WmEvent::InfoChanged(WindowId(window), Box::new(facts))));
        }
        let used = desktop.desk().windows.values().filter_map(|window| window.facts.picture.as_deref());
        let new = events.iter().filter_map(|event| match event {
            DesktopEvent::Wm(desk::WmEvent::InfoChanged(_, facts)) => facts.picture.as_deref(),
            _ => None,
        });
        let shown: Vec<&str> = used.chain(new).collect();
        self.painter.brush().pictures.keep_held(HELD, &shown);
        Ok(events)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_icon_nearest_to_what_is_shown_is_taken_and_nonsense_is_none() {
        let icon = |side: u32, colour: u32| [vec![side, side], vec![colour; (side * side) as usize]].concat();
        let all = [icon(16, 1), icon(128, 2), icon(64, 3)].concat();
        assert_eq!(best(&all).map(|(w, h, pixels)| (w, h, pixels[0])), Some((64, 64, 3)));
        assert_eq!(best(&icon(16, 1)).map(|one| one.0), Some(16));
        let (size, pixels) = picture(&icon(2, 0x80ff_4000)).expect("a picture");
        assert_eq!((size, &pixels[..4]), ((2, 2), &[0xff, 0x40, 0, 0x80][..]));
        // Cut short, without a size, with one that is none, or with one that is too large.
        assert_eq!(best(&all[..300]).map(|one| one.0), Some(16));
        for numbers in [&[][..], &[1], &[0, 0], &[u32::MAX, u32::MAX, 1], &[5000, 1, 7], &[4, 4, 1]] {
            assert_eq!(picture(numbers), None, "{numbers:?}");
        }
    }
}
