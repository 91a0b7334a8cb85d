//! What a command is given: folders, the rice, where results go.

use std::cell::RefCell;
use std::ffi::OsString;
use std::io::Write;
use std::path::{Path, PathBuf};

use jovrik_core::check::{CheckedRice, Files, HostInfo, OverlayHost};
use jovrik_core::desk::MonitorFacts;
use jovrik_core::machine::Machine;
use jovrik_core::scene::{Measure, TextStyle};
use jovrik_draw::{Brush, FontPlaces, Fonts, ImageCache};
use jovrik_home::{
    DisplayInfo, EditPlan, History, LocalHost, RiceCopy, TransactionManager, UserDirs, check_folder, machine_for, read_folder,
    resolved, rice_folder,
};
use jovrik_text::problem::{Problem, Severity, count};

use crate::exit::CommandError;
use crate::report::remark;

/// What a command is given.
pub struct Context {
    /// The person's folders.
    pub home: UserDirs,
    /// Where the person is.
    pub here: PathBuf,
    /// The rice that was asked for.
    pub asked: Option<PathBuf>,
    /// Which copy of a rice that is, for those who edit it.
    pub copy: RiceCopy,
    /// The computer's facts that were asked for.
    pub machine: Option<PathBuf>,
    /// Values laid over the rice: path and value as typed.
    pub with: Vec<(String, String)>,
    /// How many columns a report may have.
    pub width: usize,
    /// `$PATH`.
    pub path: Option<OsString>,
    /// The user's name.
    pub user: String,
    /// The computer's name.
    pub host: String,
    /// Where results go.
    pub out: Box<dyn Write>,
}

impl Context {
    /// From the environment of the process.
    pub fn of_process(
        asked: Option<PathBuf>,
        machine: Option<PathBuf>,
        with: Vec<(String, String)>,
    ) -> Result<Context, CommandError> {
        let get = |name: &str| std::env::var_os(name).filter(|value| !value.is_empty());
        let text = |name: &str| get(name).and_then(|value| value.into_string().ok());
        let host = rustix::system::uname().nodename().to_string_lossy().into_owned();
        Ok(Context {
            home: UserDirs::of(&get)?,
            here: std::env::current_dir()?,
            asked: asked.or_else(|| get("JOVRIK_RICE").map(PathBuf::from)),
            copy: RiceCopy::Own,
            machine,
            with,
            width: columns(text("COLUMNS")),
            path: get("PATH"),
            user: text("USER").or_else(|| text("LOGNAME")).unwrap_or_default(),
            host,
            out: Box::new(std::io::BufWriter::new(anstream::stdout())),
        })
    }

    /// The folder of the active rice.
    pub fn folder(&self) -> Result<PathBuf, CommandError> {
        Ok(rice_folder(self.asked.as_deref(), &self.here, &self.home)?)
    }

    /// This computer, asked as little as possible.
    pub fn this_computer(&self) -> LocalHost {
        let folder = self.folder().unwrap_or_default();
        LocalHost::new(self.path.clone(), &self.home)
            .of_rice(&folder)
            .sensing(Box::new(Outside::new(self.font_places(), &folder)))
    }

    /// This computer, or the machine that was asked for.
    pub fn around(&self) -> Result<LocalHost, CommandError> {
        let here = self.this_computer();
        match &self.machine {
            Some(asked) => Ok(here.meeting(self.facts_of(Some(asked))?)),
            None => Ok(here),
        }
    }

    /// The active rice, checked, whatever is wrong with it.
    pub fn checked(&self) -> Result<CheckedRice, CommandError> {
        Ok(check_folder(&self.folder()?, &self.with, &self.around()?))
    }

    /// The active rice for those who read it: nothing is asked that does not decide how it is laid.
    pub fn read(&self) -> Result<CheckedRice, CommandError> {
        let around = self.around()?;
        Ok(check_folder(&self.folder()?, &self.with, &OverlayHost { around: &around, elsewhere: false }))
    }

    /// The active rice, which must have no errors.
    pub fn usable(&self) -> Result<CheckedRice, CommandError> {
        fit(self.read()?)
    }

    /// The active rice for those who need some of its tables alone: errors of others are said, and hinder nobody.
    pub fn usable_in(&self, tables: &[&str]) -> Result<CheckedRice, CommandError> {
        let checked = self.read()?;
        let errors = || checked.problems.iter().filter(|one| one.severity == Severity::Error && one.elsewhere.is_none());
        let concerns = |problem: &Problem| {
            checked.table_of(problem).is_none_or(|table| tables.contains(&table.as_str()) || table == "palette")
        };
        if errors().any(concerns) {
            return Err(CommandError::Unfit(Box::new(checked)));
        }
        if errors().next().is_some() {
            let count = count(errors().count(), "error");
            remark(&format!("elsewhere in the rice: {count}; jovrik check names them"));
        }
        Ok(checked)
    }

    /// The active rice as it is on a machine, where it must have no errors.
    pub fn usable_on(&self, machine: &Machine) -> Result<CheckedRice, CommandError> {
        let around = self.this_computer().meeting(Some(machine.clone()));
        fit(check_folder(&self.folder()?, &self.with, &OverlayHost { around: &around, elsewhere: false }))
    }

    /// Whoever writes comes before it reads: what a command left that was ended is seen to first. Nobody, for a trial.
    pub fn writer(&self, dry_run: bool) -> Result<Option<TransactionManager>, CommandError> {
        if dry_run { Ok(None) } else { Ok(Some(TransactionManager::open(&self.home)?)) }
    }

    /// The same for an edit of the rice, whose copy is found first.
    pub fn editor(&mut self, dry_run: bool) -> Result<Option<TransactionManager>, CommandError> {
        let writer = self.writer(dry_run)?;
        self.go_to_edited_copy()?;
        Ok(writer)
    }

    /// From here on the active rice is the copy that an edit of it goes to.
    pub fn go_to_edited_copy(&mut self) -> Result<(), CommandError> {
        let (asked, history) = (self.folder()?, History::open_existing(&self.home.history())?);
        self.copy = RiceCopy::of(&asked, &self.home, history.as_ref())?;
        self.asked = Some(self.copy.folder(&asked).to_owned());
        Ok(())
    }

    /// The path that a person means by one: what others call it, where that can be one setting only; what was taken is said.
    pub fn meant(&self, path: &str) -> String {
        let of_manifest = ["rice.", "needs.", "check."].iter().any(|table| path.starts_with(table));
        match jovrik_core::rice::meant(path).filter(|_| !of_manifest) {
            Some(meant) => {
                remark(&format!("{path} is {meant} here"));
                meant
            }
            None => path.to_owned(),
        }
    }

    /// Plans an edit of the active rice, which is judged as `check` judges.
    pub fn plan(
        &self,
        edit: impl FnOnce(&dyn Fn() -> Files, &dyn HostInfo) -> Result<EditPlan, jovrik_home::Error>,
    ) -> Result<EditPlan, CommandError> {
        let (files, around) = (read_folder(&self.folder()?), self.around()?);
        Ok(edit(&|| files.clone(), &around)?)
    }

    /// The facts of a machine that is named.
    pub fn facts_at(&self, asked: Option<&Path>) -> Result<Machine, CommandError> {
        Ok(self.facts_of(asked)?.unwrap_or_else(Machine::plain))
    }

    fn facts_of(&self, asked: Option<&Path>) -> Result<Option<Machine>, CommandError> {
        let (machine, sources, problems) = machine_for(asked, &self.folder()?, &self.host)?;
        match problems.first() {
            Some(problem) => {
                let place = problem.marks.first().map(|mark| format!("{}: ", sources.place(mark.span))).unwrap_or_default();
                Err(CommandError::Machine(format!("{place}{}", problem.title)))
            }
            None => Ok(machine),
        }
    }

    /// The facts of the machine that was asked for, of this host, or of the first in the rice.
    pub fn facts(&self) -> Result<Machine, CommandError> {
        self.facts_at(self.machine.as_deref())
    }

    /// What is drawn with: the fonts of this computer, the pictures of a rice.
    pub fn brush(&self) -> Result<Brush, CommandError> {
        Ok(Brush::new(self.font_places(), &self.folder()?))
    }

    /// Where fonts are looked for.
    pub fn font_places(&self) -> FontPlaces {
        let data = std::env::var_os("XDG_DATA_HOME").map(PathBuf::from).unwrap_or_else(|| self.home.home.join(".local/share"));
        FontPlaces::usual(Some(data))
    }

    /// A command for the rice in a folder, as the person would type it from here.
    pub fn line(&self, command: &str, folder: &Path) -> String {
        let found = rice_folder(None, &self.here, &self.home).ok();
        let same = |found: &PathBuf| resolved(found).ok() == resolved(folder).ok();
        match found.filter(same) {
            Some(_) => format!("jovrik {command}"),
            None => format!("jovrik {command} --rice {}", self.near(folder)),
        }
    }

    /// A path as the person would type it from here.
    pub fn near(&self, path: &Path) -> String {
        match path.strip_prefix(&self.here) {
            Ok(rest) if !rest.as_os_str().is_empty() => rest.display().to_string(),
            _ => self.home.short(path),
        }
    }
}

fn fit(checked: CheckedRice) -> Result<CheckedRice, CommandError> {
    if checked.usable() { Ok(checked) } else { Err(CommandError::Unfit(Box::new(checked))) }
}

/// The display and the fonts of this computer, opened when they are asked for.
struct Outside {
    fonts: RefCell<Option<Fonts>>,
    places: FontPlaces,
    pictures: ImageCache,
}

impl Outside {
    fn new(places: FontPlaces, folder: &Path) -> Outside {
        Outside { fonts: RefCell::new(None), places, pictures: ImageCache::of(folder) }
    }

    fn with_fonts<T>(&self, ask: impl FnOnce(&mut Fonts) -> T) -> T {
        ask(self.fonts.borrow_mut().get_or_insert_with(|| Fonts::new(self.places.clone())))
    }
}

impl DisplayInfo for Outside {
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        jovrik_live::monitors(&display()?)
    }

    fn keyboard(&self) -> Vec<String> {
        let asked = display().map(|display| jovrik_live::keyboard(&display)).unwrap_or_default();
        asked.layouts.iter().map(|(layout, variant)| jovrik_core::keys::RuleNames::name(layout, variant)).collect()
    }

    fn fonts(&self) -> Vec<String> {
        self.with_fonts(Fonts::families)
    }

    fn has_font(&self, family: &str) -> bool {
        self.with_fonts(|fonts| fonts.has(family))
    }

    fn lacks(&self, family: &str, text: &str) -> Vec<char> {
        self.with_fonts(|fonts| fonts.lacks(text, &TextStyle::new(family, 11.0)))
    }

    fn picture(&self, path: &str) -> Option<String> {
        self.pictures.trouble(path).map(|why| why.to_string())
    }

    fn width(&self, text: &str, face: &TextStyle) -> f32 {
        self.with_fonts(|fonts| fonts.width(text, face))
    }
}

/// The X display, if the environment names one.
pub fn display() -> Option<String> {
    std::env::var("DISPLAY").ok().filter(|name| !name.is_empty())
}

pub fn columns(asked: Option<String>) -> usize {
    let told = asked.and_then(|text| text.parse().ok());
    let seen = || {
        rustix::termios::tcgetwinsize(std::io::stdout()).ok().map(|size| usize::from(size.ws_col)).filter(|columns| *columns > 0)
    };
    told.or_else(seen).unwrap_or(80).clamp(40, 200)
}
