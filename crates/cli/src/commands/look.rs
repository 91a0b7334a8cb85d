//! `jovrik look`

use std::path::PathBuf;
use std::rc::Rc;

use jovrik_core::bar::Now;
use jovrik_core::desk::{Action, Area, Desk, Event, Which, WindowId};
use jovrik_core::machine::Machine;
use jovrik_core::problem::{count, in_words};
use jovrik_core::rice::Rice;
use jovrik_core::scene::{default_windows, desktop, pretend, pretended_notice};
use jovrik_draw::{Brush, Canvas, encode};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Draw the desktop without a display
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The PNG to write
    #[arg(long, value_name = "FILE", default_value = "look.png")]
    pub out: PathBuf,
    /// Only this monitor of the machine
    #[arg(long, value_name = "NAME")]
    pub monitor: Option<String>,
    /// One monitor of this size instead of the machine's
    #[arg(long, value_name = "WxH", conflicts_with = "monitor")]
    pub size: Option<String>,
}

fn sized(text: &str) -> Result<Area, Failure> {
    let wrong = || Failure::Usage(format!("--size takes a width and a height such as 1920x1080, not {text}"));
    let (w, h) = text.split_once('x').ok_or_else(wrong)?;
    let (w, h): (i32, i32) = (w.parse().map_err(|_| wrong())?, h.parse().map_err(|_| wrong())?);
    if (320..=16384).contains(&w) && (200..=16384).contains(&h) { Ok(Area::new(0, 0, w, h)) } else { Err(wrong()) }
}

/// A desk with the default windows on a machine's monitors.
pub fn furnished(rice: Rc<Rice>, machine: &Machine, size: Option<Area>) -> Desk {
    let mut monitors = machine.monitors();
    if let Some(area) = size {
        monitors.truncate(1);
        monitors[0].area = area;
    }
    let mut desk = Desk::new(rice, monitors);
    let first = desk.workspace();
    let first_name = desk.workspaces[first].name.clone();
    let mut windows = default_windows();
    for window in &mut windows {
        let known = window.workspace.as_ref().is_some_and(|name| desk.workspaces.iter().any(|workspace| workspace.name == *name));
        if !known {
            window.workspace = Some(first_name.clone());
        }
    }
    windows.sort_by_key(pretend);
    let mut main = None;
    for (nth, facts) in windows.into_iter().enumerate() {
        let id = WindowId(nth as u32 + 1);
        if facts.app == "tidechart" {
            main = Some(id);
        }
        let calls = facts.app == "marshmap" && desk.workspaces.len() > 1;
        desk.handle(Event::Appears(id, facts));
        if calls {
            desk.handle(Event::Calls(id, true));
        }
    }
    desk.handle(Event::Act(Action::Go(Which::Named(first_name))));
    if let Some(main) = main {
        desk.handle(Event::Wanted(main));
    }
    desk
}

/// Draws the monitors of a desk, in their arrangement, as one picture.
pub fn draw(desk: &Desk, machine: &Machine, only: Option<&str>, brush: &mut Brush) -> Result<Canvas, Failure> {
    let names: Vec<&str> = desk.monitors.iter().map(|monitor| monitor.facts.name.as_str()).collect();
    let chosen: Vec<usize> = (0..desk.monitors.len()).filter(|at| only.is_none_or(|only| only == names[*at])).collect();
    if chosen.is_empty() {
        return Err(Failure::Usage(format!("there is no monitor {}; there is {}", only.unwrap_or_default(), in_words(&names))));
    }
    let areas: Vec<Area> = chosen.iter().map(|at| desk.monitors[*at].facts.area).collect();
    let edge = |pick: fn(&Area) -> i32| areas.iter().map(pick);
    let (left, top) = (edge(|area| area.x).min().unwrap_or(0), edge(|area| area.y).min().unwrap_or(0));
    let (right, bottom) = (edge(|area| area.x + area.w).max().unwrap_or(1), edge(|area| area.y + area.h).max().unwrap_or(1));
    let too_large = || Failure::Usage("the monitors are too far apart to draw".to_owned());
    if i64::from(right - left) * i64::from(bottom - top) > 200_000_000 {
        return Err(too_large());
    }
    let mut canvas = Canvas::new((right - left) as u32, (bottom - top) as u32).ok_or_else(too_large)?;
    let known = machine.known(desk.rice());
    for monitor in chosen {
        let mut scene = desktop(desk.rice(), desk, monitor, Now::of(&known), &mut brush.fonts);
        if monitor == desk.monitor {
            pretended_notice(desk.rice(), desk, monitor, &mut scene, &mut brush.fonts);
        }
        canvas.draw(&scene, (left as f32, top as f32), brush);
    }
    Ok(canvas)
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let size = arguments.size.as_deref().map(sized).transpose()?;
    let machine = context.facts()?;
    let checked = context.usable_on(&machine)?;
    let desk = furnished(checked.rice.clone(), &machine, size);
    let mut brush = context.brush()?;
    let canvas = draw(&desk, &machine, arguments.monitor.as_deref(), &mut brush)?;
    let bytes = encode(&canvas)?;
    let path = context.here.join(&arguments.out);
    jovrik_home::commit(&[(path, bytes)])?;
    let out = &mut context.out;
    let who = if machine.host.is_empty() { "a plain machine".to_owned() } else { machine.host.clone() };
    let shown = if arguments.monitor.is_some() || size.is_some() { 1 } else { desk.monitors.len() };
    writeln!(
        out,
        "wrote {}: {}x{}, {} of {who}",
        Meaning::Place.paint(&arguments.out.display().to_string()),
        canvas.width(),
        canvas.height(),
        count(shown, "monitor")
    )?;
    if !brush.fonts.missing().is_empty() {
        writeln!(out, "  {}: not on this computer; the built-in font stands in", in_words(&brush.fonts.missing()))?;
    }
    if context.with.is_empty() && checked.rice.palette.all.len() > 1 {
        let other = checked.rice.palette.all.keys().find(|name| **name != checked.rice.palette.name);
        if let Some(other) = other {
            advice(out, "  ", &format!("jovrik look --with palette.use={other}"), "draws it in the other palette")?;
        }
    }
    Ok(Exit::Done)
}
