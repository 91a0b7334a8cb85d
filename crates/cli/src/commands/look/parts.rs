//! What a look shows: the whole desktop, or one part of it.

use std::rc::Rc;
use std::time::Duration;

use jovrik_core::bar::BarLayout;
use jovrik_core::desk::WindowManager;
use jovrik_core::desktop::{Desktop, DesktopEvent, Surface, SurfaceId};
use jovrik_core::part::BackdropContent;
use jovrik_core::rice::{ButtonAction, ButtonActions};
use jovrik_core::scene::{Measure, Scene, default_apps, default_tellings, seen, strip_items};
use jovrik_core::stage::Headless;
use jovrik_text::problem::in_words;
use jovrik_values::action::Action;
use jovrik_values::{PixelRect, Rect};

use crate::exit::CommandError;

/// A part of the desktop.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LookTarget {
    /// Everything.
    Desktop,
    /// What lies behind the windows.
    Backdrop,
    /// All bars of a monitor, or one.
    Bar(Option<String>),
    /// One module.
    Module(String),
    /// Something that opens over the windows.
    Opened(LookPopup),
}

/// What opens over the windows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LookPopup {
    /// Widgets.
    Widgets,
    /// The dock.
    Dock,
    /// Notices.
    Notices,
    /// The launcher.
    Launcher,
    /// The first menu that a module has.
    Menu,
    /// What the first module says of itself that does so.
    Hint,
    /// The sheet of all keys.
    Sheet,
}

impl LookPopup {
    const ALL: [(&'static str, LookPopup); 7] = [
        ("dock", LookPopup::Dock),
        ("widgets", LookPopup::Widgets),
        ("notices", LookPopup::Notices),
        ("launcher", LookPopup::Launcher),
        ("menu", LookPopup::Menu),
        ("hint", LookPopup::Hint),
        ("sheet", LookPopup::Sheet),
    ];

    /// The part that its surfaces are of.
    fn surfaces(self) -> &'static str {
        match self {
            LookPopup::Widgets => "widget",
            LookPopup::Dock => "dock",
            LookPopup::Notices => "notice",
            LookPopup::Launcher => "launcher",
            LookPopup::Menu => "menu",
            LookPopup::Hint => "hint",
            LookPopup::Sheet => "sheet",
        }
    }

    /// Why there may be none.
    fn why_not(self) -> &'static str {
        match self {
            LookPopup::Dock => "there is no dock: [dock] keeps nothing, and shows nothing that runs",
            LookPopup::Widgets => "no widget is seen there",
            LookPopup::Notices | LookPopup::Launcher | LookPopup::Sheet => "there is no room for it on that monitor",
            LookPopup::Menu => "no module opens a menu when it is pressed",
            LookPopup::Hint => "no module says anything when the pointer rests on it",
        }
    }
}

/// What is to be seen of the launcher.
#[derive(Debug, Clone, Default)]
pub struct LauncherInput {
    /// The list; its first without this.
    pub list: Option<String>,
    /// What is typed; nothing where it is not to be open over the whole desktop.
    pub text: Option<String>,
}

/// Tells a desktop what makes a part be seen.
pub fn open(
    desktop: &mut Desktop,
    part: &LookTarget,
    typed: &LauncherInput,
    stage: &mut Headless<&mut dyn Measure>,
) -> Result<(), CommandError> {
    let told = default_tellings();
    let opened = typed.list.is_some() || typed.text.is_some();
    let most = match part {
        LookTarget::Desktop if opened => told.len(),
        LookTarget::Desktop => 1,
        LookTarget::Opened(LookPopup::Notices) => told.len(),
        _ => 0,
    };
    // Where a notice would hide half of a small monitor, it is left out of the whole.
    let wide = desktop.desk().work_area(desktop.desk().monitor).w / 2 > desktop.desk().rice().notices.width.0;
    let now = Duration::ZERO;
    let first = if most == 1 { 1 } else { 0 };
    for telling in told.into_iter().skip(first).take(most).rev().filter(|_| wide || most > 1) {
        stage.tell(desktop, DesktopEvent::NotificationReceived(Box::new(telling)), now);
    }
    if desktop.desk().rice().dock.is_there() {
        stage.tell(desktop, DesktopEvent::Entries("apps".to_owned(), Rc::new(default_apps())), now);
    }
    match part {
        LookTarget::Desktop if !opened => {}
        LookTarget::Desktop | LookTarget::Opened(LookPopup::Launcher) => {
            stage.tell(desktop, DesktopEvent::Entries("apps".to_owned(), Rc::new(default_apps())), now);
            stage.tell(desktop, DesktopEvent::Act(Action::Launcher(typed.list.clone())), now);
            if !desktop.refused().is_empty() {
                let lists = jovrik_core::launcher::lists(desktop.desk().rice());
                return Err(CommandError::Usage(format!("{}; there are {}", desktop.refused().join("; "), in_words(&lists))));
            }
            stage.tell(desktop, DesktopEvent::Pasted(typed.text.clone().unwrap_or_default()), now);
        }
        LookTarget::Opened(LookPopup::Menu) => press_each(desktop, stage),
        LookTarget::Opened(LookPopup::Hint) => rest_on_each(desktop, stage),
        LookTarget::Opened(LookPopup::Sheet) => stage.tell(desktop, DesktopEvent::Act(Action::KeysSheet), now),
        _ => {}
    }
    Ok(())
}

/// The middle of each module of each bar.
fn modules(desktop: &Desktop) -> Vec<(SurfaceId, String, (i32, i32))> {
    let bars = desktop.surfaces().filter_map(|surface| Some((surface.id.clone(), surface.content::<BarLayout>()?.clone())));
    let middle = |rect: Rect| ((rect.x + rect.w / 2.0) as i32, (rect.y + rect.h / 2.0) as i32);
    let each = |(id, strip): (SurfaceId, BarLayout)| {
        let all = strip.modules.into_iter();
        all.map(move |shown| (id.clone(), shown.name, middle(shown.rect))).collect::<Vec<_>>()
    };
    bars.flat_map(each).collect()
}

/// Presses modules until a menu is open.
fn press_each(desktop: &mut Desktop, stage: &mut Headless<&mut dyn Measure>) {
    for (id, name, (x, y)) in modules(desktop) {
        let press = desktop.desk().rice().module.get(&name).map(|module| module.press.clone()).unwrap_or_default();
        let menu = ButtonActions::BUTTONS.iter().find(|(_, button)| matches!(press.button(*button), Some(ButtonAction::Menu(_))));
        if let Some((_, button)) = menu {
            stage.tell(desktop, DesktopEvent::Button(Some(id), *button, x, y), Duration::ZERO);
            stage.tell(desktop, DesktopEvent::PointerMoved(None, x, y + 40), Duration::ZERO);
            return;
        }
    }
}

/// Rests the pointer on modules until one says something.
fn rest_on_each(desktop: &mut Desktop, stage: &mut Headless<&mut dyn Measure>) {
    for (nth, (id, _, (x, y))) in modules(desktop).into_iter().enumerate() {
        let begins = Duration::from_secs(nth as u64);
        stage.tell(desktop, DesktopEvent::PointerMoved(Some(id), x, y), begins);
        stage.wait(desktop, begins + Duration::from_millis(900));
        if desktop.surfaces().any(|surface| surface.id.part == "hint") {
            return;
        }
    }
}

/// The parts as they are typed.
const WORDS: &str = "desktop, backdrop, bar, bar.NAME, module.NAME, dock, widgets, notices, launcher, menu, hint or sheet";

impl LookTarget {
    /// Whether windows would hide it.
    pub fn is_below_windows(&self) -> bool {
        *self == LookTarget::Opened(LookPopup::Widgets)
    }

    /// Reads a part.
    pub fn parse(text: &str) -> Result<LookTarget, CommandError> {
        Ok(match text.split_once('.') {
            None if text == "desktop" => LookTarget::Desktop,
            None if text == "backdrop" => LookTarget::Backdrop,
            None if text == "bar" => LookTarget::Bar(None),
            None if let Some((_, opened)) = LookPopup::ALL.iter().find(|(word, _)| *word == text) => LookTarget::Opened(*opened),
            Some(("bar", name)) => LookTarget::Bar(Some(name.to_owned())),
            Some(("module", name)) => LookTarget::Module(name.to_owned()),
            _ => {
                let words = WORDS.split([',', ' ']).filter(|word| !word.is_empty() && !word.contains('.') && *word != "or");
                let near = jovrik_text::problem::nearest(text, words);
                let near = near.map_or(format!("it is {WORDS}"), |near| format!("did you mean {near}?"));
                return Err(CommandError::Usage(format!("there is no part {text} to draw; {near}")));
            }
        })
    }
}

/// What is drawn, and the area of it that is shown.
#[derive(Debug, Clone)]
pub struct CroppedScene {
    /// Everything drawn.
    pub scene: Scene,
    /// What is shown of it.
    pub area: Rect,
}

/// The monitors of a desk that are meant.
fn chosen(desk: &WindowManager, only: Option<&str>) -> Result<Vec<usize>, CommandError> {
    let names: Vec<&str> = desk.monitors.iter().map(|monitor| monitor.facts.name.as_str()).collect();
    let chosen: Vec<usize> = (0..desk.monitors.len()).filter(|at| only.is_none_or(|only| only == names[*at])).collect();
    if chosen.is_empty() {
        let only = only.unwrap_or_default();
        return Err(CommandError::Usage(format!("there is no monitor {only}; there is {}", in_words(&names))));
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
    own.and_then(|surface| Some(Scene::clone(&surface.content::<BackdropContent>()?.behind))).unwrap_or_default()
}

/// The bars of some monitors.
fn strips(desktop: &Desktop, monitors: &[usize]) -> Vec<BarLayout> {
    let name = |monitor: &usize| desktop.desk().monitors[*monitor].facts.name.as_str();
    let on = |monitor: &usize| {
        let own = desktop.surfaces().filter(move |surface| surface.id.monitor == name(monitor));
        own.filter_map(|surface| surface.content::<BarLayout>().cloned()).collect::<Vec<_>>()
    };
    monitors.iter().flat_map(on).collect()
}

/// Draws a part of a desktop.
pub fn sheet(
    desktop: &Desktop,
    part: &LookTarget,
    only: Option<&str>,
    measure: &mut dyn Measure,
) -> Result<CroppedScene, CommandError> {
    let desk = desktop.desk();
    let monitors = chosen(desk, only)?;
    let first = if monitors.contains(&desk.monitor) { desk.monitor } else { monitors[0] };
    let mut scene = Scene::default();
    let whole = union(monitors.iter().map(|at| Rect::from(desk.monitors[*at].facts.area))).unwrap_or_default();
    let area = match part {
        LookTarget::Desktop => {
            for monitor in monitors {
                scene.items.extend(seen(desktop, monitor, measure).items);
            }
            whole
        }
        LookTarget::Backdrop => {
            monitors.iter().for_each(|monitor| scene.items.extend(ground(desktop, *monitor).items));
            whole
        }
        // They lie below the windows.
        LookTarget::Opened(LookPopup::Widgets) => {
            monitors.iter().for_each(|monitor| scene.items.extend(ground(desktop, *monitor).items));
            let here = |surface: &Surface| monitors.iter().any(|at| desk.monitors[*at].facts.name == surface.id.monitor);
            let own: Vec<_> =
                desktop.surfaces().filter(|surface| surface.id.part == "widget" && here(surface)).cloned().collect();
            own.iter().for_each(|surface| scene.items.extend(surface.content.scene(desk.rice(), surface.area.into()).items));
            let rects = own.iter().map(|surface| Rect::from(surface.area).grown(24.0));
            union(rects).ok_or_else(|| CommandError::Usage(LookPopup::Widgets.why_not().to_owned()))?
        }
        LookTarget::Opened(part) => {
            for monitor in monitors {
                scene.items.extend(seen(desktop, monitor, measure).items);
            }
            let own = desktop.surfaces().filter(|surface| surface.id.part == part.surfaces());
            let rects = own.map(|surface| Rect::from(surface.area).grown(24.0));
            union(rects).ok_or_else(|| CommandError::Usage(part.why_not().to_owned()))?
        }
        LookTarget::Bar(name) => {
            monitors.iter().for_each(|monitor| scene.items.extend(ground(desktop, *monitor).items));
            let mut strips = strips(desktop, &monitors);
            strips.retain(|strip| name.as_ref().is_none_or(|name| *name == strip.name));
            for strip in &strips {
                scene.items.extend(strip_items(desk.rice(), strip).items);
            }
            let names: Vec<&str> = desk.rice().bar.keys().map(String::as_str).collect();
            let none = || {
                let name = name.as_deref().unwrap_or("at all");
                CommandError::Usage(format!("no bar {name} is shown there; the bars are {}", in_words(&names)))
            };
            union(strips.iter().map(|strip| strip.rect)).ok_or_else(none)?
        }
        LookTarget::Module(name) => {
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
            let none = || CommandError::Usage(format!("no bar shows a module {name}; they show {}", in_words(&shown())));
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
        return Err(CommandError::Usage("the monitors are too far apart to draw".to_owned()));
    }
    Ok(CroppedScene { scene, area })
}

/// A size such as `1920x1080`.
pub fn sized(text: &str) -> Result<PixelRect, CommandError> {
    let wrong = || CommandError::Usage(format!("--size takes a width and a height such as 1920x1080, not {text}"));
    let (w, h) = text.split_once('x').ok_or_else(wrong)?;
    let (w, h): (i32, i32) = (w.parse().map_err(|_| wrong())?, h.parse().map_err(|_| wrong())?);
    if (320..=16384).contains(&w) && (200..=16384).contains(&h) { Ok(PixelRect::new(0, 0, w, h)) } else { Err(wrong()) }
}
