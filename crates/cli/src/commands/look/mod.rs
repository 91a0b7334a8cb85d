//! `jovrik look`

mod parts;
mod side_by_side;
mod terminal;

use std::io::IsTerminal;
use std::path::PathBuf;
use std::time::Duration;

use jovrik_core::check::CheckedRice;
use jovrik_core::desk::{self, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEvent};
use jovrik_core::machine::Machine;
use jovrik_core::scene::{Measure, default_windows, in_front, pretend};
use jovrik_core::stage::Headless;
use jovrik_draw::{Brush, Canvas, encode, svg};
use jovrik_text::problem::{count, in_words};
use jovrik_values::PixelRect;
use jovrik_values::action::{Action, CycleTarget};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice};
use parts::{CroppedScene, open, sheet, sized};
pub use parts::{LauncherInput, LookTarget};
use side_by_side::{CompareTarget, pair};
use terminal::TerminalGraphics;

/// Draw the desktop without a display
///
/// The whole desktop of a machine, or one part: backdrop, bar, bar.NAME, module.NAME, dock, widgets,
/// notices, launcher, menu, hint, sheet.
/// With --beside another state stands next to it, and what differs is marked and listed: a palette, PATH=VALUE, an
/// overlay, #N of the history, a machine, another rice's folder, or a picture.
/// On a terminal, and without --out, the picture is shown there.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// desktop, backdrop, bar, bar.NAME, module.NAME, dock, widgets, notices, launcher, menu, hint or sheet
    #[arg(value_name = "PART", add = crate::complete::look_part())]
    pub part: Option<String>,
    /// The PNG or SVG to write, by its ending
    #[arg(long, value_name = "FILE")]
    pub out: Option<PathBuf>,
    /// Only this monitor of the machine
    #[arg(long, value_name = "NAME")]
    pub monitor: Option<String>,
    /// The workspace that is shown; the first without this
    #[arg(long, value_name = "NAME", add = crate::complete::workspace())]
    pub workspace: Option<String>,
    /// One monitor of this size instead of the machine's
    #[arg(long, value_name = "WxH", conflicts_with = "monitor")]
    pub size: Option<String>,
    /// How many pixels a pixel takes, 1 to 4
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u8).range(1..=4))]
    pub scale: u8,
    /// Which list of the launcher is open; without a part it is over the whole desktop
    #[arg(long, value_name = "NAME", add = crate::complete::list())]
    pub list: Option<String>,
    /// What is typed into it
    #[arg(long, value_name = "TEXT")]
    pub typed: Option<String>,
    /// Another state next to this one
    #[arg(long, value_name = "OTHER", add = crate::complete::beside())]
    pub beside: Option<String>,
    /// How a terminal shows it; without this it is asked what it can
    #[arg(long = "as", value_name = "WAY")]
    pub way: Option<TerminalGraphics>,
}

/// A rice on a machine.
pub struct ElementsInState {
    /// The rice.
    pub checked: CheckedRice,
    /// The machine.
    pub machine: Machine,
    /// The rice's folder, for its pictures.
    pub folder: PathBuf,
}

/// A desktop with the default windows on a machine's monitors: what a stage in memory holds of it.
pub fn furnished(
    checked: &CheckedRice,
    machine: &Machine,
    size: Option<PixelRect>,
    workspace: Option<&str>,
    (part, typed): (&LookTarget, &LauncherInput),
    measure: &mut dyn Measure,
) -> Result<Desktop, CommandError> {
    let mut monitors = machine.monitors();
    if let Some(area) = size {
        monitors.truncate(1);
        monitors[0].area = area;
    }
    let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
    let mut stage = Headless::new(measure);
    let mut tell = |desktop: &mut Desktop, event: DesktopEvent| stage.tell(desktop, event, Duration::ZERO);
    tell(&mut desktop, DesktopEvent::Values(machine.known(&checked.rice)));
    let of_desk = DesktopEvent::Wm;
    let desk = desktop.desk();
    let first = desk.workspaces[desk.workspace()].name.clone();
    let mut windows = default_windows();
    if part.is_below_windows() {
        windows.clear();
    }
    // Those of the station's workspaces are there where the rice has these.
    let known = |name: &String| desk.workspaces.iter().any(|workspace| workspace.name == *name);
    windows.retain(|window| window.workspace.as_ref().is_none_or(known));
    for window in &mut windows {
        window.workspace.get_or_insert_with(|| first.clone());
    }
    // The order of the first workspace is that of its layout, the others stand as they are listed.
    windows.sort_by_key(|window| if window.workspace.as_ref() == Some(&first) { pretend(window) } else { 9 });
    let (mut main, mut fronts) = (None, Vec::new());
    for (nth, facts) in windows.into_iter().enumerate() {
        let id = WindowId(nth as u32 + 1);
        let workspace = facts.workspace.clone().unwrap_or_default();
        if facts.app_id == "tidechart" && workspace == first {
            main = Some(id);
        }
        if in_front(&workspace) == Some(facts.title.as_str()) && workspace != first {
            fronts.push(id);
        }
        let calls = ["Creek survey", "Letters (3)"].contains(&facts.title.as_str()) && workspace != first;
        tell(&mut desktop, of_desk(desk::WmEvent::Mapped(id, facts)));
        if calls {
            tell(&mut desktop, of_desk(desk::WmEvent::UrgencyChanged(id, true)));
        }
    }
    fronts.into_iter().for_each(|id| tell(&mut desktop, of_desk(desk::WmEvent::ActivationRequested(id))));
    tell(&mut desktop, DesktopEvent::Act(Action::Go(CycleTarget::Named(first))));
    if let Some(main) = main {
        tell(&mut desktop, of_desk(desk::WmEvent::ActivationRequested(main)));
    }
    if let Some(workspace) = workspace {
        tell(&mut desktop, DesktopEvent::Act(Action::Go(CycleTarget::Named(workspace.to_owned()))));
    }
    open(&mut desktop, part, typed, &mut stage)?;
    Ok(desktop)
}

/// A sheet as pixels.
fn pixels(sheet: &CroppedScene, scale: u8, brush: &mut Brush) -> Result<Canvas, CommandError> {
    let by = f32::from(scale.max(1));
    let too_large = || CommandError::Usage("the picture would be too large".to_owned());
    let (w, h) = ((sheet.area.w * by) as u32, (sheet.area.h * by) as u32);
    let mut canvas = Canvas::new(w, h).ok_or_else(too_large)?;
    let origin = (sheet.area.x * by, sheet.area.y * by);
    if scale > 1 {
        canvas.draw(&sheet.scene.clone().scaled(by), origin, brush);
    } else {
        canvas.draw(&sheet.scene, origin, brush);
    }
    Ok(canvas)
}

/// Draws the monitors of a machine with a rice, in their arrangement, as one picture; `bare`: without windows.
///
/// # Errors
///
/// When the picture would be too large.
pub fn draw(checked: &CheckedRice, machine: &Machine, bare: bool, brush: &mut Brush) -> Result<Canvas, CommandError> {
    let part = if bare { LookTarget::parse("widgets")? } else { LookTarget::Desktop };
    let shown = (&part, &LauncherInput::default());
    let desktop = furnished(checked, machine, None, None, shown, &mut brush.fonts)?;
    let sheet = sheet(&desktop, &LookTarget::Desktop, None, &mut brush.fonts)?;
    pixels(&sheet, 1, brush)
}

struct LookOptions {
    part: LookTarget,
    typed: LauncherInput,
    size: Option<PixelRect>,
    monitor: Option<String>,
    workspace: Option<String>,
    scale: u8,
}

impl LookOptions {
    fn sheet(&self, state: &ElementsInState, brush: &mut Brush) -> Result<CroppedScene, CommandError> {
        let shown = (&self.part, &self.typed);
        let desktop = furnished(&state.checked, &state.machine, self.size, self.workspace.as_deref(), shown, &mut brush.fonts)?;
        sheet(&desktop, &self.part, self.monitor.as_deref(), &mut brush.fonts)
    }
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let part = arguments.part.as_deref().map_or(Ok(LookTarget::Desktop), LookTarget::parse)?;
    let size = arguments.size.as_deref().map(sized).transpose()?;
    let machine = context.facts()?;
    let state = ElementsInState { checked: context.usable_on(&machine)?, machine, folder: context.folder()? };
    if let Some(name) = &arguments.workspace {
        let names = state.checked.rice.workspace_names();
        if !names.contains(&name.as_str()) {
            return Err(CommandError::Usage(format!("there is no workspace {name}; there is {}", in_words(&names))));
        }
    }
    let opens = [LookTarget::Desktop, LookTarget::Opened(parts::LookPopup::Launcher)].contains(&part);
    if (arguments.list.is_some() || arguments.typed.is_some()) && !opens {
        return Err(CommandError::Usage("--list and --typed go with jovrik look, and with jovrik look launcher".to_owned()));
    }
    let wanted = LookOptions {
        part,
        typed: LauncherInput { list: arguments.list.clone(), text: arguments.typed.clone() },
        size,
        monitor: arguments.monitor.clone(),
        workspace: arguments.workspace.clone(),
        scale: arguments.scale,
    };
    let mut brush = context.brush()?;
    let sheet = wanted.sheet(&state, &mut brush)?;
    let shown_here = arguments.out.is_none() && (arguments.way.is_some() || std::io::stdout().is_terminal());
    let out = arguments.out.clone().unwrap_or_else(|| "look.png".into());
    let ending = out.extension().map(|end| end.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
    if !shown_here && !matches!(ending.as_str(), "png" | "svg") {
        return Err(CommandError::Usage(format!("a picture's name ends in .png or .svg, not as {} does", out.display())));
    }
    let mut said = None;
    let canvas = if let Some(other) = &arguments.beside {
        if ending == "svg" && !shown_here {
            return Err(CommandError::Usage("two states are compared pixel by pixel: --beside writes a PNG".to_owned()));
        }
        let this = pixels(&sheet, wanted.scale, &mut brush)?;
        let found = CompareTarget::parse(other, &state, context)?;
        let (picture, changes) = match &found {
            CompareTarget::Picture(picture) => (picture.clone(), Vec::new()),
            CompareTarget::State(other) => {
                let mut brush = Brush::new(context.font_places(), &other.folder);
                let sheet = wanted.sheet(other, &mut brush)?;
                (pixels(&sheet, wanted.scale, &mut brush)?, side_by_side::settings(&state, other))
            }
        };
        let name = format!("{} {}", state.checked.manifest.rice.name, state.checked.rice.palette.name);
        let too_large = || CommandError::Usage("the two pictures are too large to stand side by side".to_owned());
        let both = pair(&this, &picture, (&name, other), &state, &mut brush).ok_or_else(too_large)?;
        said = Some((changes, both.areas, both.everywhere));
        both.canvas
    } else if ending == "svg" && !shown_here {
        let text = svg(&sheet.scene, sheet.area, &mut brush);
        jovrik_home::commit(&[(context.here.join(&out), text.into_bytes())])?;
        let size = (sheet.area.w as u32, sheet.area.h as u32);
        return told(&out, size, &state, &brush, &arguments, None, context);
    } else {
        pixels(&sheet, wanted.scale, &mut brush)?
    };
    if shown_here {
        terminal::show(&canvas, arguments.way, context.width, &mut context.out)?;
        if let Some((changes, areas, everywhere)) = said {
            differing(&changes, &areas, everywhere, context)?;
        }
        return Ok(Exit::Done);
    }
    jovrik_home::commit(&[(context.here.join(&out), encode(&canvas)?)])?;
    told(&out, (canvas.width(), canvas.height()), &state, &brush, &arguments, said, context)
}

/// What differs, and where.
type Differences = (Vec<jovrik_core::change::Change>, Vec<jovrik_values::Rect>, bool);

fn differing(
    changes: &[jovrik_core::change::Change],
    areas: &[jovrik_values::Rect],
    everywhere: bool,
    context: &mut Context,
) -> Result<(), CommandError> {
    let out = &mut context.out;
    match (areas, everywhere) {
        ([], _) => writeln!(out, "  both look the same")?,
        (_, true) => writeln!(out, "  nearly all of it looks different")?,
        (areas, false) => {
            let places: Vec<String> =
                areas.iter().take(4).map(|area| format!("{}x{}+{}+{}", area.w, area.h, area.x, area.y)).collect();
            let more = areas.len().saturating_sub(4);
            let more = if more > 0 { format!(", and {more} more") } else { String::new() };
            writeln!(out, "  different in {}: {}{more}", count(areas.len(), "place"), places.join(", "))?;
        }
    }
    for change in changes.iter().take(12) {
        writeln!(out, "  {change}")?;
    }
    if changes.len() > 12 {
        writeln!(out, "  and {} more", count(changes.len() - 12, "setting"))?;
    }
    Ok(())
}

fn told(
    path: &std::path::Path,
    size: (u32, u32),
    state: &ElementsInState,
    brush: &Brush,
    arguments: &Arguments,
    said: Option<Differences>,
    context: &mut Context,
) -> Result<Exit, CommandError> {
    let host = &state.machine.host;
    let who = if host.is_empty() { "a plain machine".to_owned() } else { host.clone() };
    let alone = arguments.monitor.is_some() || arguments.size.is_some();
    let shown = if alone { 1 } else { state.machine.monitors().len() };
    let what = match &arguments.part {
        Some(part) if part != "desktop" => format!("{part} on {}", count(shown, "monitor")),
        _ => count(shown, "monitor"),
    };
    writeln!(context.out, "wrote {}: {}x{}, {what} of {who}", Meaning::Place.paint(&path.display().to_string()), size.0, size.1)?;
    if !brush.fonts.missing().is_empty() {
        writeln!(context.out, "  {}: not on this computer; the built-in font stands in", in_words(&brush.fonts.missing()))?;
    }
    for (path, why) in &brush.pictures.troubles {
        writeln!(context.out, "  {path}: {why}")?;
    }
    if let Some((changes, areas, everywhere)) = said {
        differing(&changes, &areas, everywhere, context)?;
        return Ok(Exit::Done);
    }
    let palettes = &state.checked.rice.palette;
    if context.with.is_empty() && palettes.all.len() > 1 {
        let other = palettes.all.keys().find(|name| **name != palettes.name);
        if let Some(other) = other {
            let out = &mut context.out;
            advice(out, "  ", &format!("jovrik look --beside {other}"), "puts the other palette next to it")?;
        }
    }
    Ok(Exit::Done)
}
