//! `jovrik demo`

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use jovrik_core::change::changes;
use jovrik_core::desk;
use jovrik_core::desktop::{DesktopEffect, DesktopEvent, MonotonicTime};
use jovrik_home::UserDirs;
use jovrik_live::{request, socket_path};
use jovrik_text::problem::count;
use serde_json::{Value, json};

use super::{adopt, apply, check, greet, history, keys, look, new, publish, set, undo, why};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, wrap};

/// A tour of it all on the sample, without a display
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Where the pictures and the bundle go; a new folder of its own if not said
    #[arg(long, value_name = "DIR")]
    pub out: Option<PathBuf>,
    /// Show the reloads on $DISPLAY too
    #[arg(long)]
    pub live: bool,
}

/// What the tour adds to the sample to have something to mend: a typing error, and two fights.
const MINE: &str = "# Bindings of my own, added late at night.

[keys.desk]
\"Lead+z\" = \"clsoe\"
\"Lead+Alt+F9\" = \"layout next\"
\"Alt+lead+f9\" = \"go logs\"
\"super+return\" = { do = \"open charts\", note = \"Charts\" }
";

struct Tour<'c> {
    context: &'c mut Context,
    step: usize,
}

impl Tour<'_> {
    fn heading(&mut self, title: &str, about: &str) -> Result<(), CommandError> {
        self.step += 1;
        let width = self.context.width;
        let out = &mut self.context.out;
        writeln!(out, "\n{}", Meaning::Heading.paint(&format!("{}  {title}", self.step)))?;
        for line in wrap(about, width.saturating_sub(3)) {
            writeln!(out, "   {}", Meaning::Second.paint(&line))?;
        }
        Ok(())
    }

    fn run(&mut self, words: &str, command: impl FnOnce(&mut Context) -> Result<Exit, CommandError>) -> Result<(), CommandError> {
        writeln!(self.context.out, "\n{} {}", Meaning::Second.paint("$"), Meaning::Type.paint(&format!("jovrik {words}")))?;
        command(self.context)?;
        self.context.out.flush()?;
        Ok(())
    }
}

fn write(path: &Path, text: &str) -> Result<(), CommandError> {
    std::fs::write(path, text).map_err(|error| jovrik_home::Error::io(path, &error).into())
}

fn make(folder: &Path) -> Result<(), CommandError> {
    std::fs::create_dir_all(folder).map_err(|error| jovrik_home::Error::io(folder, &error).into())
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let scratch = tempfile::Builder::new().prefix("jovrik-demo-").tempdir()?;
    let results = match &arguments.out {
        Some(out) => context.here.join(out),
        None => tempfile::Builder::new().prefix("jovrik-demo-").tempdir()?.keep(),
    };
    make(&results)?;
    let person = context.home.clone();
    let (here, asked) = (context.here.clone(), context.asked.take());
    let home = scratch.path().join("home");
    context.home = UserDirs {
        config: home.join(".config"),
        state: home.join(".local/state"),
        cache: home.join(".cache"),
        runtime: person.runtime.clone(),
        home: home.clone(),
    };
    make(&home)?;
    context.here = scratch.path().to_owned();
    let done = tour(&results, arguments.live, context);
    context.home = person;
    context.here = here;
    context.asked = asked;
    done?;
    let out = &mut context.out;
    writeln!(out, "\n{}", Meaning::Heading.paint("To open"))?;
    let mut files: Vec<PathBuf> = std::fs::read_dir(&results)?.filter_map(|entry| Some(entry.ok()?.path())).collect();
    files.sort_unstable();
    for file in files {
        writeln!(out, "  {}", Meaning::Place.paint(&file.display().to_string()))?;
    }
    writeln!(
        out,
        "\nNothing of this touched your home. To begin one of your own: {}",
        Meaning::Type.paint("jovrik new my-rice")
    )?;
    Ok(Exit::Done)
}

fn tour(results: &Path, live: bool, context: &mut Context) -> Result<(), CommandError> {
    let file = |name: &str| results.join(name);
    let mut tour = Tour { context, step: 0 };
    writeln!(tour.context.out, "A tour of Jovrik in a home of its own.")?;

    tour.heading("Describe", "A rice is a folder of TOML files with one vocabulary for all parts of the desktop.")?;
    tour.run("new saltmarsh", |context| {
        new::run(
            new::Arguments {
                plain: false,
                dir: "saltmarsh".into(),
                sample: "saltmarsh".into(),
                bare: false,
                every_setting: false,
                dry_run: false,
            },
            context,
        )
    })?;
    tour.context.here.push("saltmarsh");
    let folder = tour.context.here.clone();

    tour.heading("See", "Pictures of the desktop without a display, for a machine of two monitors and for a laptop.")?;
    let picture = |out: PathBuf, with: &[(&str, &str)], machine: Option<&'static str>| {
        let with: Vec<(String, String)> = with.iter().map(|(path, value)| ((*path).to_owned(), (*value).to_owned())).collect();
        move |context: &mut Context| {
            context.machine = machine.map(PathBuf::from);
            context.with = with;
            let done = look::run(look::Arguments { out: Some(out), scale: 1, ..look::Arguments::default() }, context);
            context.with.clear();
            context.machine = None;
            done
        }
    };
    tour.run("look --out ebb.png", picture(file("ebb.png"), &[], None))?;
    tour.run(
        "look --out noon.png --machine skiff --with palette.use=noon",
        picture(file("noon.png"), &[("palette.use", "noon")], Some("skiff")),
    )?;

    tour.run("look --size 1280x800 --beside noon --out both.png", |context| {
        let beside = look::Arguments {
            out: Some(file("both.png")),
            size: Some("1280x800".into()),
            beside: Some("noon".into()),
            scale: 1,
            ..look::Arguments::default()
        };
        look::run(beside, context)
    })?;

    tour.run("look --typed ga --out parts.png", |context| {
        let parts = look::Arguments {
            out: Some(file("parts.png")),
            size: Some("1920x1080".into()),
            typed: Some("ga".into()),
            scale: 1,
            ..look::Arguments::default()
        };
        look::run(parts, context)
    })?;

    tour.heading("Furnish", "Widgets and a dock with the values of the bar's modules, and what a new shell shows.")?;
    tour.run("look --size 1280x800 --workspace music --out furniture.png", |context| {
        let widgets = look::Arguments {
            out: Some(file("furniture.png")),
            size: Some("1280x800".into()),
            workspace: Some("music".into()),
            scale: 1,
            ..look::Arguments::default()
        };
        look::run(widgets, context)
    })?;
    tour.run("greet", |context| greet::run(greet::Arguments::alone(context.width.min(100) as u16), context))?;

    tour.heading("Check", "Somebody adds bindings late at night: one is misspelled, two take keys that are in use.")?;
    write(&folder.join("parts/mine.toml"), MINE)?;
    tour.run("check", |context| check::run(check::Arguments::default(), context))?;
    tour.run("check --fix", |context| check::run(check::Arguments { fix: true, ..check::Arguments::default() }, context))?;

    tour.heading("Keys", "Who fights whom, and the cheapest peace: who stays is part of the search.")?;
    tour.run("keys clash", |context| keys::clash::run(keys::clash::Arguments::default(), context))?;
    tour.run("keys settle --write", |context| {
        keys::settle::run(keys::settle::Arguments { write: true, ..keys::settle::Arguments::default() }, context)
    })?;
    tour.run("keys trace 'Ctrl+space n'", |context| {
        keys::trace::run(
            keys::trace::Arguments { chords: vec!["Ctrl+space n".into()], ..keys::trace::Arguments::default() },
            context,
        )
    })?;
    tour.run("keys sheet --out keys.png", |context| {
        keys::sheet::run(
            keys::sheet::Arguments { out: Some(file("keys.png")), width: 1280, ..keys::sheet::Arguments::default() },
            context,
        )
    })?;
    tour.run("check", |context| check::run(check::Arguments::default(), context))?;

    tour.heading("Apply", "Into the home folder in one transaction: the rice, and the files that it places.")?;
    tour.run("apply", |context| apply::run(apply::Arguments::default(), context))?;

    tour.heading(
        "Change",
        "One setting, in the file where it stands; every other byte stays. A headless desk says what a reload would do.",
    )?;
    tour.run("set space.between 20", |context| {
        set::run(set::Arguments { path: "space.between".into(), value: Some("20".into()), ..set::Arguments::default() }, context)
    })?;
    tour.run("why space.between", |context| {
        why::run(why::Arguments { path: Some("space.between".into()), json: false }, context)
    })?;
    reload(&mut tour, "frame.active", "\"@calm\"")?;
    reload(&mut tour, "bar.top.thick", "40")?;
    tour.run("look --out after.png", picture(file("after.png"), &[], None))?;
    tour.run("apply", |context| apply::run(apply::Arguments::default(), context))?;

    if live {
        on_display(&mut tour, &folder)?;
    }

    tour.heading("Undo", "Everything that was written is in the history, and comes back byte for byte.")?;
    tour.run("history", |context| history::run(history::Arguments::default(), context))?;
    tour.run("undo", |context| undo::run(undo::Arguments::default(), context))?;
    tour.run("undo", |context| undo::run(undo::Arguments::default(), context))?;

    tour.heading("Share", "A bundle that is the same bytes each time; what others adopt is shown first, and never run.")?;
    tour.run("publish --bundle saltmarsh.rice", |context| {
        publish::run(publish::Arguments { bundle: file("saltmarsh.rice"), ..publish::Arguments::default() }, context)
    })?;
    tour.run("adopt saltmarsh.rice", |context| {
        adopt::run(adopt::Arguments { source: file("saltmarsh.rice"), ..adopt::Arguments::default() }, context)
    })?;
    Ok(())
}

/// What a reload with one changed setting does to a desk with windows, without a display.
fn reload(tour: &mut Tour<'_>, path: &str, value: &str) -> Result<(), CommandError> {
    let machine = tour.context.facts()?;
    let before = tour.context.usable_on(&machine)?;
    tour.context.with = vec![(path.to_owned(), value.to_owned())];
    let after = tour.context.usable_on(&machine);
    tour.context.with.clear();
    let after = after?;
    let mut fonts = tour.context.brush()?.fonts;
    let mut desktop = look::furnished(
        &before,
        &machine,
        None,
        None,
        (&look::LookTarget::Backdrop, &look::LauncherInput::default()),
        &mut fonts,
    )?;
    let event = DesktopEvent::Settings(after.rice.clone(), after.scopes.clone());
    let effects = desktop.handle(event, MonotonicTime::default(), &mut fonts);
    let moved = effects.iter().filter(|effect| matches!(effect, DesktopEffect::Wm(desk::WmEffect::Configure { .. }))).count();
    let hidden = effects.iter().filter(|effect| matches!(effect, DesktopEffect::Wm(desk::WmEffect::Unmap(_)))).count();
    let painted: usize =
        effects.iter().map(|effect| if let DesktopEffect::Surface(_, areas) = effect { areas.len() } else { 0 }).sum();
    let changed: Vec<String> = changes(&before.tree, &after.tree).iter().map(ToString::to_string).collect();
    writeln!(tour.context.out, "\n{}  {}", Meaning::Second.paint("reload"), changed.join(", "))?;
    writeln!(tour.context.out, "  {} moved, {hidden} hidden, {} painted", count(moved, "window"), count(painted, "area"))?;
    Ok(())
}

/// A desktop that runs beside the tour, and ends with it.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = rustix::process::kill_process(rustix::process::Pid::from_child(&self.0), rustix::process::Signal::TERM);
        let _ = self.0.wait();
    }
}

fn on_display(tour: &mut Tour<'_>, folder: &Path) -> Result<(), CommandError> {
    tour.heading("Live", "The same desk on the X server: each save is a reload, and no window is lost.")?;
    let display = super::live::display()?;
    let socket = socket_path(&tour.context.home.runtime, &display);
    let mut command = Command::new(std::env::current_exe()?);
    command.arg("live").arg("--rice").arg(folder).env("HOME", &tour.context.home.home).stdout(Stdio::null());
    command.env_remove("XDG_CONFIG_HOME").env_remove("XDG_STATE_HOME");
    let mut running = Running(command.spawn()?);
    let wait = || std::thread::sleep(Duration::from_millis(300));
    let mut up = false;
    for _ in 0..20 {
        wait();
        up = request(&socket, &json!({ "ask": "health" })).is_ok();
        if up || running.0.try_wait()?.is_some() {
            break;
        }
    }
    if !up {
        return Err(CommandError::Live(jovrik_live::Error::NoDesktop(
            socket.display().to_string(),
            "it did not start".to_owned(),
        )));
    }
    let tell = |action: &str| request(&socket, &json!({ "tell": action }));
    for action in ["open terminal", "open terminal", "layout next", "launcher windows", "launcher windows"] {
        writeln!(tour.context.out, "\n{} {}", Meaning::Second.paint("$"), Meaning::Type.paint(&format!("jovrik tell {action}")))?;
        tour.context.out.flush()?;
        if let Err(why) = tell(action) {
            writeln!(tour.context.out, "  {why}")?;
        }
        wait();
    }
    tour.run("set palette.use noon", |context| {
        set::run(set::Arguments { path: "palette.use".into(), value: Some("noon".into()), ..set::Arguments::default() }, context)
    })?;
    wait();
    let health = request(&socket, &json!({ "ask": "health" }))?;
    let total = health.pointer("/stages/total").and_then(Value::as_str).unwrap_or("not at all");
    let windows = health.get("windows").and_then(Value::as_u64).unwrap_or(0);
    writeln!(tour.context.out, "  reloaded in {total}; {} there", count(windows as usize, "window"))?;
    // Windows would survive the end: those of the tour are closed first.
    for _ in 0..windows {
        let _ = tell("close");
        wait();
    }
    let _ = tell("quit");
    Ok(())
}
