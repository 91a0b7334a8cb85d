//! `jovrik live`

use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::{Duration, Instant};

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::{CheckedRice, HostInfo, OverlayHost};
use jovrik_core::desktop::{StandaloneComponent, only};
use jovrik_home::{
    Choices, EntryDraft, FileChange, FileSnapshot, RiceCopy, TransactionManager, UserDirs, not_applied, resolved, write_edit,
};
use jovrik_live::{ExitReason, LiveDesktop, Options, RequestError, socket_path};
use jovrik_schema::Branch;
use jovrik_text::problem::Severity;

use super::nested::{self, Nested};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice};
use crate::typed::{Size, alone, some_time};

/// Run the desktop on $DISPLAY; every save of the rice is a reload
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Take the place of another window manager that runs
    #[arg(long)]
    pub replace: bool,
    /// Run these parts alone, beside whatever manages the windows: bar, dock, launcher, notices, widgets
    #[arg(long, value_name = "PARTS", value_delimiter = ',', value_parser = alone, conflicts_with_all = ["nested", "trial"])]
    pub only: Vec<StandaloneComponent>,
    /// Try every reload for so long: it goes back unless `reload keep` is told or bound
    #[arg(long, value_name = "TIME", value_parser = some_time)]
    pub trial: Option<Duration>,
    /// Open it in a window of the desktop that runs, with a server of its own
    #[arg(long, value_name = "SIZE", num_args = 0..=1, default_missing_value = "1600x900", conflicts_with = "replace")]
    pub nested: Option<Size>,
    /// Take over in place from one that has run until now
    #[arg(long, hide = true)]
    pub again: bool,
}

/// The program as it is on disk now.
fn own_program() -> std::io::Result<PathBuf> {
    let own = std::env::current_exe()?;
    // One that was written anew has another file of its name.
    let name = own.to_string_lossy().into_owned();
    Ok(name.strip_suffix(" (deleted)").map_or(own, PathBuf::from))
}

/// Whether the program as it is on disk can read this rice; why not.
fn renewed(folder: &Path) -> Result<(), RequestError> {
    let own = own_program().map_err(|error| RequestError::System(error.to_string()))?;
    let mut command = std::process::Command::new(&own);
    let output = command.arg("check").current_dir(folder).stdin(Stdio::null()).output();
    let output = output.map_err(|error| RequestError::File(own.display().to_string(), error.to_string()))?;
    if output.status.success() {
        return Ok(());
    }
    let said = String::from_utf8_lossy(&output.stderr).into_owned() + &String::from_utf8_lossy(&output.stdout);
    // The report begins with what is worst.
    let first = said.lines().find(|line| !line.trim().is_empty()).unwrap_or_default().trim().to_owned();
    Err(RequestError::Program(first))
}

/// Runs the program on disk in our place.
fn run_again() -> CommandError {
    let given = std::env::args_os().skip(1);
    let arguments = given.filter(|argument| argument != "--replace" && argument != "--again");
    let error = match own_program() {
        Ok(own) => {
            let mut command = std::process::Command::new(own);
            command.args(arguments).args(["--replace", "--again"]).exec()
        }
        Err(error) => error,
    };
    CommandError::Output(error)
}

/// The last reload that was recorded: what the rice was before it, which settings it touched, and when.
struct Recorded {
    entry: i64,
    before: Branch,
    paths: Vec<String>,
    at: Instant,
}

/// Saves that touch the same settings within this time are one entry.
const ENTRY_TIMEOUT: Duration = Duration::from_secs(60);

/// Records an accepted reload, with the files as they were and as they are; when another command writes it is to be tried again.
/// What a person saves again and again, trying values of the same settings, is one entry.
fn record(
    before: &CheckedRice,
    after: &CheckedRice,
    folder: &Path,
    home: &UserDirs,
    last: &mut Option<Recorded>,
) -> Result<(), String> {
    let text = |checked: &CheckedRice, name: &str| {
        let file = checked.sources.named(name).and_then(|id| checked.sources.get(id));
        file.map(|file| file.text.clone().into_bytes())
    };
    let mut names: Vec<&str> = before.sources.iter().chain(after.sources.iter()).map(|(_, file)| file.name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let Ok(folder) = resolved(folder) else { return Ok(()) };
    let change = |name: &str| {
        let path = resolved(&folder.join(name)).ok()?;
        let (old, new) = (text(before, name).map(FileSnapshot::new), text(after, name).map(FileSnapshot::new));
        (old != new).then_some(FileChange { path, old, new, placed: None })
    };
    let changed: Vec<FileChange> = names.into_iter().filter_map(change).collect();
    let differ = changes(&before.tree, &after.tree);
    let mut paths: Vec<String> = differ.iter().map(|change| change.path.clone()).collect();
    paths.sort_unstable();
    let mut write = || -> Result<(), jovrik_home::Error> {
        // The desktop goes on meanwhile, and tries again.
        let mut writer = TransactionManager::open_now(home)?;
        if let Some(recorded) = last.as_mut().filter(|last| last.paths == paths && last.at.elapsed() < ENTRY_TIMEOUT) {
            let what = in_short(&changes(&recorded.before, &after.tree));
            let about = EntryDraft { kind: "reload", what: &what, note: None, rice: Some(&folder) };
            if writer.go_on(recorded.entry, &about, &changed)? {
                recorded.at = Instant::now();
                return Ok(());
            }
        }
        let about = EntryDraft { kind: "reload", what: &in_short(&differ), note: None, rice: Some(&folder) };
        let entry = writer.record(&about, &changed)?;
        *last = entry.map(|entry| Recorded { entry, before: before.tree.clone(), paths: paths.clone(), at: Instant::now() });
        Ok(())
    };
    write().map_err(|why| why.to_string())
}

/// The first error of a rice: its place, and its sentence.
fn first_error(checked: &CheckedRice) -> Option<String> {
    let error = checked.problems.iter().find(|problem| problem.severity == Severity::Error)?;
    let place = error.marks.first().map(|mark| format!("{}: ", checked.sources.place(mark.span))).unwrap_or_default();
    Some(format!("{place}{}", error.title))
}

/// Writes a setting into the rice, as `set` does; why it was not.
fn keep(path: &str, value: &str, folder: &Path, around: &dyn HostInfo, home: &UserDirs) -> Result<(), RequestError> {
    let written = || -> Result<(), CommandError> {
        let mut writer = TransactionManager::open(home)?;
        let copy = RiceCopy::of(folder, home, writer.history())?;
        let folder = copy.folder(folder);
        let files = jovrik_home::read_folder(folder);
        let planned = jovrik_home::edit::set(|| files.clone(), path, value, None, around)?;
        // Whatever else is not applied yet would come along, and nobody looked at what that reaches.
        if let RiceCopy::SourceOfApplied(source) = &copy
            && !not_applied(source, &planned.before, home, writer.history())?.is_empty()
        {
            let source = home.short(source);
            let why = format!("{source} has changes that are not applied yet: jovrik apply --rice {source} comes first");
            return Err(CommandError::NotTaken(why));
        }
        let folder = resolved(folder)?;
        let about = EntryDraft { kind: "set", what: &planned.what(), note: Some("told to the desktop"), rice: Some(&folder) };
        let changes = planned.writes(&folder)?;
        write_edit(&mut writer, home, &about, &copy, changes, (&planned.files, &planned.after))?;
        Ok(())
    };
    written().map_err(|failure| match failure {
        CommandError::Home(jovrik_home::Error::Refused(checked)) => RequestError::Rice(first_error(&checked).unwrap_or_default()),
        other => RequestError::NotDone(other.to_string()),
    })
}

/// A command of this program with a folder.
fn own(command: &str, folder: &Path) -> Result<Vec<std::ffi::OsString>, CommandError> {
    let program = own_program().map_err(|error| CommandError::Usage(error.to_string()))?;
    Ok(vec![program.into(), command.into(), folder.into()])
}

/// The display's name.
pub fn display() -> Result<String, CommandError> {
    crate::context::display().ok_or(CommandError::Live(jovrik_live::Error::NoDisplay))
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let outer = display()?;
    let folder = context.folder()?;
    let mut checked = context.usable()?;
    if arguments.nested.is_some() {
        checked = nested::lead(&outer, checked, context)?;
    }
    let parts = arguments.only.clone();
    if !parts.is_empty() {
        only(&mut checked, &parts);
    }
    let name = format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version);
    let nested = arguments.nested.map(|size| Nested::open(&outer, size, &name)).transpose()?;
    let display = nested.as_ref().map_or(outer, |nested| nested.display.clone());
    let around = context.around()?;
    let (load_folder, watched_folder, home) = (folder.clone(), folder.clone(), context.home.clone());
    let (own_folder, in_window) = (folder.clone(), nested.is_some());
    let (kept_folder, kept_around, kept_home) = (folder.clone(), context.around()?, home.clone());
    let with = context.with.clone();
    let mut recorded = None;
    let choices = Choices::of(&context.home);
    let (picks, picked_in, turned) = (choices.clone(), folder.clone(), choices.read(&folder).turned);
    let options = Options {
        socket: socket_path(&context.home.runtime, &display),
        display: display.clone(),
        fonts: context.font_places(),
        folder,
        first: checked,
        load: Box::new(move |set| {
            let with: Vec<(String, String)> = with.iter().chain(set).cloned().collect();
            let mut checked = jovrik_home::check_folder(&load_folder, &with, &OverlayHost { around: &around, elsewhere: false });
            if !parts.is_empty() {
                only(&mut checked, &parts);
            }
            checked
        }),
        pick: Box::new(move |picked, turned| {
            let choices = picks.pick(&picked_in, picked, turned);
            choices.map_err(|error| RequestError::System(error.to_string()))
        }),
        choices: choices.file().to_owned(),
        turned,
        keep: Box::new(move |path, value| keep(path, value, &kept_folder, &kept_around, &kept_home)),
        accepted: Box::new(move |before, after| record(before, after, &watched_folder, &home, &mut recorded)),
        state: context.home.state.join("jovrik"),
        cache: context.home.cache.clone(),
        in_session: vec![own_program().map_err(|error| CommandError::Usage(error.to_string()))?.into(), "session".into()],
        aside: own("aside", &context.home.cache)?,
        logs: own("logs", &context.home.state.join("jovrik/programs"))?,
        watched: jovrik_home::is_watched,
        defaults: std::fs::read_to_string(context.home.home.join(".Xdefaults")).unwrap_or_default(),
        replace: arguments.replace,
        only: arguments.only,
        renewed: Box::new(move || match in_window {
            true => Err(RequestError::NotDone("in a window of its own it is started anew instead: close that".to_owned())),
            false => renewed(&own_folder),
        }),
        trial: arguments.trial,
        again: arguments.again,
    };
    super::guard::watch_over()?;
    let desktop = LiveDesktop::start(options)?;
    writeln!(context.out, "{} on {display}", Meaning::Heading.paint(&name))?;
    advice(&mut context.out, "  ", "jovrik ask health", "says how it is; saving the rice reloads it")?;
    context.out.flush()?;
    let ended = match desktop.run() {
        // Its window was closed.
        Err(jovrik_live::Error::Gone) if nested.is_some() => ExitReason::Quit,
        ended => ended?,
    };
    match ended {
        ExitReason::Quit => Ok(Exit::Done),
        ExitReason::Interrupted => Ok(Exit::Interrupted),
        ExitReason::Again => Err(run_again()),
    }
}
