//! What a look shows: the whole desktop, or one part of it.

use jovrik_core::bar::Strip;
use jovrik_core::desk::{Area, Desk};
use jovrik_core::desktop::Desktop;
use jovrik_core::part::Ground;
use jovrik_core::problem::in_words;
use jovrik_core::scene::{Item, Measure, Rect, Scene, pretended_notice, seen, strip_items};

use crate::exit::Failure;

/// A part of the desktop.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Part {
    /// Everything.
    Desktop,
    /// What lies behind the windows.
    Backdrop,
    /// All bars of a monitor, or one.
    Bar(Option<String>),
    /// One module.
    Module(String),
    /// A notice.
    Notice,
}

/// The parts as they are typed.
const WORDS: &str = "desktop, backdrop, bar, bar.NAME, module.NAME or notice";

impl Part {
    /// Reads a part.
    pub fn parse(text: &str) -> Result<Part, Failure> {
        Ok(match text.split_once('.') {
            None if text == "desktop" => Part::Desktop,
            None if text == "backdrop" => Part::Backdrop,
            None if text == "bar" => Part::Bar(None),
            None if text == "notice" => Part::Notice,
            Some(("bar", name)) => Part::Bar(Some(name.to_owned())),
            Some(("module", name)) => Part::Module(name.to_owned()),
            _ => return Err(Failure::Usage(format!("there is no part {text} to draw; it is {WORDS}"))),
        })
    }
}

/// What is drawn, and the area of it that is shown.
#[derive(Debug, Clone)]
pub struct Sheet {
    /// Everything drawn.
    pub scene: Scene,
    /// What is shown of it.
    pub area: Rect,
}

/// The monitors of a desk that are meant.
fn chosen(desk: &Desk, only: Option<&str>) -> Result<Vec<usize>, Failure> {
    let names: Vec<&str> = desk.monitors.iter().map(|monitor| monitor.facts.name.as_str()).collect();
    let chosen: Vec<usize> = (0..desk.monitors.len()).filter(|at| only.is_none_or(|only| only == names[*at])).collect();
    if chosen.is_empty() {
        let only = only.unwrap_or_default();
        return Err(Failure::Usage(format!("there is no monitor {only}; there is {}", in_words(&names))));
    }
    Ok(chosen)
}

fn union(areas: impl IntoIterator<Item = Rect>) -> Option<Rect> {
    areas.into_iter().reduce(Rect::union)
}

/// A monitor's backdrop.
fn ground(desktop: &Desktop, monitor: usize) -> Scene {
    let name = &desktop.desk().monitors[monitor].facts.name;
    let own = desktop.surfaces().find(|surface| surface.id.part == "backdrop" && surface.id.monitor == *name);
    own.and_then(|surface| Some(Scene::clone(&surface.content::<Ground>()?.behind))).unwrap_or_default()
}

/// The bars of some monitors.
fn strips(desktop: &Desktop, monitors: &[usize]) -> Vec<Strip> {
    let name = |monitor: &usize| desktop.desk().monitors[*monitor].facts.name.as_str();
    let on = |monitor: &usize| {
        let own = desktop.surfaces().filter(move |surface| surface.id.monitor == name(monitor));
        own.filter_map(|surface| surface.content::<Strip>().cloned()).collect::<Vec<_>>()
    };
    monitors.iter().flat_map(on).collect()
}

/// Draws a part of a desktop.
pub fn sheet(desktop: &Desktop, part: &Part, only: Option<&str>, measure: &mut dyn Measure) -> Result<Sheet, Failure> {
    let desk = desktop.desk();
    let monitors = chosen(desk, only)?;
    let first = if monitors.contains(&desk.monitor) { desk.monitor } else { monitors[0] };
    let mut scene = Scene::default();
    let whole = union(monitors.iter().map(|at| Rect::from(desk.monitors[*at].facts.area))).unwrap_or_default();
    let area = match part {
        Part::Desktop => {
            for monitor in monitors {
                scene.items.extend(seen(desktop, monitor, measure).items);
            }
            pretended_notice(desk.rice(), desk, first, &mut scene, measure);
            whole
        }
        Part::Backdrop => {
            monitors.iter().for_each(|monitor| scene.items.extend(ground(desktop, *monitor).items));
            whole
        }
        Part::Notice => {
            scene = ground(desktop, first);
            let mut own = Scene::default();
            pretended_notice(desk.rice(), desk, first, &mut own, measure);
            let rect = own.items.iter().find_map(|item| match item {
                Item::Fill { rect, .. } => Some(rect.grown(24.0)),
                _ => None,
            });
            scene.items.extend(own.items);
            rect.ok_or_else(|| Failure::Usage("the monitor is too small for a notice".to_owned()))?
        }
        Part::Bar(name) => {
            monitors.iter().for_each(|monitor| scene.items.extend(ground(desktop, *monitor).items));
            let mut strips = strips(desktop, &monitors);
            strips.retain(|strip| name.as_ref().is_none_or(|name| *name == strip.name));
            for strip in &strips {
                scene.items.extend(strip_items(desk.rice(), strip).items);
            }
            let names: Vec<&str> = desk.rice().bar.keys().map(String::as_str).collect();
            let none = || {
                let name = name.as_deref().unwrap_or("at all");
                Failure::Usage(format!("no bar {name} is shown there; the bars are {}", in_words(&names)))
            };
            union(strips.iter().map(|strip| strip.rect)).ok_or_else(none)?
        }
        Part::Module(name) => {
            scene = ground(desktop, first);
            let strips = strips(desktop, &monitors);
            let found = strips.iter().find_map(|strip| {
                let shown = strip.modules.iter().find(|shown| shown.name == *name)?;
                Some((strip, shown.rect))
            });
            let shown = || {
                let mut names: Vec<&str> =
                    strips.iter().flat_map(|strip| &strip.modules).map(|shown| shown.name.as_str()).collect();
                let mut seen = Vec::new();
                names.retain(|name| {
                    !seen.contains(name) && {
                        seen.push(*name);
                        true
                    }
                });
                names
            };
            let none = || Failure::Usage(format!("no bar shows a module {name}; they show {}", in_words(&shown())));
            let (strip, rect) = found.ok_or_else(none)?;
            scene.items.extend(strip_items(desk.rice(), strip).items);
            let across = if strip.upright() { (strip.rect.x, strip.rect.w) } else { (strip.rect.y, strip.rect.h) };
            match strip.upright() {
                true => Rect::new(across.0, rect.y - 12.0, across.1, rect.h + 24.0),
                false => Rect::new(rect.x - 12.0, across.0, rect.w + 24.0, across.1),
            }
        }
    };
    let Rect { x, y, w, h } = area;
    let area = Rect::new(x.floor(), y.floor(), (w + x.fract()).ceil(), (h + y.fract()).ceil());
    if f64::from(area.w) * f64::from(area.h) > 200_000_000.0 {
        return Err(Failure::Usage("the monitors are too far apart to draw".to_owned()));
    }
    Ok(Sheet { scene, area })
}

/// A size such as `1920x1080`.
pub fn sized(text: &str) -> Result<Area, Failure> {
    let wrong = || Failure::Usage(format!("--size takes a width and a height such as 1920x1080, not {text}"));
    let (w, h) = text.split_once('x').ok_or_else(wrong)?;
    let (w, h): (i32, i32) = (w.parse().map_err(|_| wrong())?, h.parse().map_err(|_| wrong())?);
    if (320..=16384).contains(&w) && (200..=16384).contains(&h) { Ok(Area::new(0, 0, w, h)) } else { Err(wrong()) }
}
