//! What lies behind windows is drawn where it differs alone, and is all the same as if all of it were drawn anew.

use std::time::Duration;

use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_core::desk::{MonitorFacts, WindowFacts, WindowId, WmEvent};
use jovrik_core::desktop::{Desktop, DesktopEffect, MonotonicTime, Surface};
use jovrik_core::part::BackdropContent;
use jovrik_core::scene::Scene;
use jovrik_core::stage::FixedWidthMeasure;
use jovrik_draw::{Brush, Canvas};
use jovrik_text::Source;
use jovrik_values::action::Action;
use jovrik_values::{PixelRect, Rect};
use proptest::prelude::*;

use crate::brush;

const WIDE: i32 = 330;
const HIGH: i32 = 260;
/// What the frame of the focused window is filled with.
const FILLS: [&str; 3] = ["#ff8040", "#ff804080", "linear-gradient(90deg, #ff8040, #4080ff)"];

/// A picture on which only what differs is drawn, as a stage keeps it.
struct Kept {
    desktop: Desktop,
    canvas: Canvas,
    brush: Brush,
}

fn paint(canvas: &mut Canvas, surface: &Surface, desktop: &Desktop, areas: &[Rect], brush: &mut Brush) {
    let ground: &BackdropContent = surface.content().expect("a backdrop");
    let painting = ground.painting(areas);
    for (area, colour) in painting.plain {
        let mut plain = Scene::default();
        plain.fill(area.into(), 0.0, colour);
        canvas.draw(&plain, (0.0, 0.0), brush);
    }
    let bare = painting.bare.into_iter().map(|area| (area, false));
    for (area, mixed) in bare.chain(painting.mixed.into_iter().map(|area| (area, true))) {
        let mut piece = Canvas::new(area.w as u32, area.h as u32).expect("a size");
        let at = (area.x as f32, area.y as f32);
        piece.draw(&ground.behind, at, brush);
        if mixed {
            piece.draw(&ground.frames(desktop.desk().rice(), area), at, brush);
        }
        canvas.paste(&piece, (area.x as u32, area.y as u32));
    }
}

fn backdrop(desktop: &Desktop) -> Surface {
    let own = desktop.surfaces().find(|surface| surface.id.part == "backdrop").expect("a backdrop");
    Surface::clone(own)
}

impl Kept {
    fn new(rice: &str) -> Kept {
        let parts = vec![Source::new("parts/a.toml", rice)];
        let manifest = Some(Source::new("rice.toml", "[rice]\nname = \"test\"\n"));
        let checked = check(Files { manifest, parts, ..Files::default() }, &[], &UnknownHost);
        assert_eq!(checked.errors(), 0);
        let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, WIDE, HIGH))];
        let desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
        let canvas = Canvas::new(WIDE as u32, HIGH as u32).expect("a size");
        let mut kept = Kept { desktop, canvas, brush: brush() };
        kept.tell(WmEvent::Pointed(0));
        kept
    }

    fn tell(&mut self, event: WmEvent) {
        let event = jovrik_core::desktop::DesktopEvent::Wm(event);
        for effect in self.desktop.handle(event, MonotonicTime(Duration::ZERO), &mut FixedWidthMeasure(6.0)) {
            if let DesktopEffect::Surface(surface, areas) = effect
                && surface.id.part == "backdrop"
            {
                paint(&mut self.canvas, &surface, &self.desktop, &areas, &mut self.brush);
            }
        }
    }

    /// Whether all that is seen of it is as if it were drawn anew.
    fn same(&mut self, near: u8) -> Result<(), String> {
        let surface = backdrop(&self.desktop);
        let whole = [Rect::from(surface.area)];
        let mut fresh = Canvas::new(WIDE as u32, HIGH as u32).expect("a size");
        let ground: &BackdropContent = surface.content().expect("a backdrop");
        fresh.draw(&ground.behind, (0.0, 0.0), &mut self.brush);
        fresh.draw(&ground.frames(self.desktop.desk().rice(), surface.area), (0.0, 0.0), &mut self.brush);
        for area in ground.seen(&whole) {
            for (x, y) in (area.y..area.y + area.h).flat_map(|y| (area.x..area.x + area.w).map(move |x| (x, y))) {
                let at = (y * WIDE + x) as usize * 4;
                let (kept, fresh) = (&self.canvas.bytes()[at..at + 4], &fresh.bytes()[at..at + 4]);
                if kept.iter().zip(fresh).any(|(kept, fresh)| kept.abs_diff(*fresh) > near) {
                    return Err(format!("{x},{y}: {kept:?}, and {fresh:?} anew"));
                }
            }
        }
        Ok(())
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_is_kept_of_it_is_what_would_be_drawn_anew(radius in 0..14, glow in 0..8, between in 4..12, width in 0..5, active in 0..FILLS.len(), steps in proptest::collection::vec((0..9usize, 1..20u32), 1..25)) {
        let rice = format!("[space]\nbetween = {between}\nedge = 5\n[frame]\nwidth = {width}\nactive = \"{}\"\nradius = {radius}\nglow = {{ width = {glow} }}\n\
            [backdrop]\nfill = \"linear-gradient(45deg, #203040, #806040)\"\n[workspaces]\norder = [\"one\", \"two\"]\nlayouts = [\"main\", \"grid\", \"ribbon\", \"tabs\"]\n", FILLS[active]);
        let mut kept = Kept::new(&rice);
        for (what, id) in steps {
            let act = |text: &str| WmEvent::ActionInvoked(Action::parse(text).expect("an action"));
            kept.tell(match what {
                0..=2 => WmEvent::Mapped(WindowId(id), WindowFacts::default()),
                3 => WmEvent::Unmapped(WindowId(id)),
                4 => WmEvent::ActivationRequested(WindowId(id)),
                5 => act("layout next"),
                6 => act("go next"),
                7 => act("float toggle"),
                _ => act("main grow"),
            });
            // A gradient goes along a row in steps, from where its piece begins.
            let same = kept.same(if FILLS[active].starts_with('#') { 0 } else { 2 });
            prop_assert!(same.is_ok(), "{same:?}");
        }
    }
}
