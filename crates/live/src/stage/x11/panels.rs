//! Panels and desktops of other programs: they lie where they want, and windows keep off what they keep (EWMH,
//! `_NET_WM_STRUT_PARTIAL`).

use std::collections::HashSet;

use jovrik_core::desk::{self, Panel, StackingLayer, WindowId};
use jovrik_core::desktop::DesktopEvent;
use jovrik_values::{PixelRect, Side};
use x11rb::protocol::xproto::{ChangeWindowAttributesAux, ConnectionExt, EventMask, Window};

use super::server::Server;
use crate::Error;

/// Those that are there.
#[derive(Debug, Default)]
pub struct Panels(HashSet<Window>);

/// What a panel says that it keeps: left, right, top, bottom, and from where to where each; of a whole screen of a size.
///
/// What makes no sense (it keeps half the screen or more, or nothing) keeps nothing.
fn kept(strut: &[u32], (w, h): (i32, i32)) -> Vec<(Side, PixelRect)> {
    let sides = [Side::Left, Side::Right, Side::Top, Side::Bottom];
    let partial = strut.len() >= 12;
    let one = |(nth, side): (usize, Side)| {
        let thick = i32::try_from(*strut.get(nth)?).ok()?;
        let (across, along) = if nth < 2 { (w, h) } else { (h, w) };
        let range = |at: usize| strut.get(at).map_or(0, |value| i32::try_from(*value).unwrap_or(i32::MAX).min(along - 1));
        let (from, to) = if partial { (range(4 + 2 * nth), range(5 + 2 * nth)) } else { (0, along - 1) };
        if thick <= 0 || thick >= across || to < from {
            return None;
        }
        let length = to - from + 1;
        let area = match side {
            Side::Left => PixelRect::new(0, from, thick, length),
            Side::Right => PixelRect::new(w - thick, from, thick, length),
            Side::Top => PixelRect::new(from, 0, length, thick),
            Side::Bottom => PixelRect::new(from, h - thick, length, thick),
        };
        Some((side, area))
    };
    sides.into_iter().enumerate().filter_map(one).collect()
}

impl Panels {
    /// Whether a window is one of them.
    pub fn has(&self, window: Window) -> bool {
        self.0.contains(&window)
    }

    /// Takes one that wants to be seen, in its own place.
    pub fn take(&mut self, server: &Server, window: Window, level: StackingLayer) -> Result<DesktopEvent, Error> {
        let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::PROPERTY_CHANGE);
        server.connection.change_window_attributes(window, &listen)?.ignore_error();
        self.0.insert(window);
        server.connection.map_window(window)?.ignore_error();
        server.state(window, 1)?;
        self.read(server, window, level)
    }

    /// What one keeps now.
    pub fn read(&self, server: &Server, window: Window, level: StackingLayer) -> Result<DesktopEvent, Error> {
        let names = server.names;
        let mut strut = server.numbers(window, names._NET_WM_STRUT_PARTIAL)?;
        if strut.len() < 12 {
            strut = server.numbers(window, names._NET_WM_STRUT)?;
            strut.truncate(4);
        }
        let size = (server.size.0.into(), server.size.1.into());
        let panel = Panel { level, keeps: kept(&strut, size) };
        Ok(DesktopEvent::Wm(desk::WmEvent::Panel(WindowId(window), Some(panel))))
    }

    /// One is gone, if it was one.
    pub fn gone(&mut self, window: Window) -> Option<DesktopEvent> {
        self.0.remove(&window).then_some(DesktopEvent::Wm(desk::WmEvent::Panel(WindowId(window), None)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn struts_are_areas_at_the_edges_and_nonsense_keeps_nothing() {
        let size = (1000, 800);
        let top = [0, 0, 30, 0, 0, 0, 0, 0, 100, 499, 0, 0];
        assert_eq!(kept(&top, size), [(Side::Top, PixelRect::new(100, 0, 400, 30))]);
        assert_eq!(kept(&[0, 40, 0, 20], size).len(), 2);
        assert_eq!(kept(&[0, 40, 0, 0], size), [(Side::Right, PixelRect::new(960, 0, 40, 800))]);
        for nonsense in [&[][..], &[0, 0, 800, 0], &[u32::MAX; 12], &[u32::MAX; 4], &[5, 0, 0, 0, 9, 2, 0, 0, 0, 0, 0, 0]] {
            assert_eq!(kept(nonsense, size), [], "{nonsense:?}");
        }
    }
}
