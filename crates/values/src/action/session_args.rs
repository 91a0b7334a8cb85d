//! What those actions take that are about more than windows: settings, reloads, backdrops, lists, notices and pictures.

use std::time::Duration;

use jovrik_schema::TimeSpan;
use jovrik_text::shell_line;

use crate::NotificationCommand;
use crate::action::argument::Argument;
use crate::action::reference::{ReferenceKind, References};

/// A setting's path, and its value as it is written in a rice.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SettingAssignment {
    /// The path.
    pub path: String,
    /// The value.
    pub value: String,
    /// Whether it is written into the rice.
    pub keep: bool,
}

/// A setting and its value.
pub(super) struct PathAndValue;

impl Argument for PathAndValue {
    type Value = SettingAssignment;
    const FORM: &'static str = "[--keep] PATH VALUE";
    fn read(words: &[&str]) -> Option<SettingAssignment> {
        let (keep, words) = match words.split_first() {
            Some((&"--keep", rest)) => (true, rest),
            _ => (false, words),
        };
        let (path, value) = words.split_first().filter(|(_, value)| !value.is_empty())?;
        Some(SettingAssignment { path: (*path).to_owned(), value: value.join(" "), keep })
    }
    fn write(value: &SettingAssignment) -> String {
        let keep = value.keep.then_some("--keep");
        let words: Vec<&str> = keep.into_iter().chain([value.path.as_str(), value.value.as_str()]).collect();
        shell_line(&words)
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &SettingAssignment) -> Option<String> {
        value.keep.then(|| format!("writes {} = {} into the rice", value.path, value.value))
    }
}

/// What a picture is taken of, and where it is kept.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Screenshot {
    /// What is on it.
    pub of: ScreenshotSource,
    /// Where it goes.
    pub to: ScreenshotTarget,
}

/// What is on a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ScreenshotSource {
    /// All monitors.
    #[default]
    All,
    /// The focused window, with its frame.
    Window,
    /// An area that the person chooses with the pointer.
    Area,
}

/// Where a picture goes.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum ScreenshotTarget {
    /// Among the person's pictures, by the name of the moment.
    #[default]
    Pictures,
    /// Into a file.
    File(String),
    /// To be pasted (the selection CLIPBOARD).
    Clipboard,
}

/// What is read again, and for how long.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReloadMode {
    /// The rice.
    Rice,
    /// The rice, by the program as it is on disk now, which takes over in place.
    Own,
    /// The rice, until it goes back by itself.
    Trial(Duration),
    /// What is tried stays.
    Keep,
}

/// What is read again, and for how long.
pub(super) struct OfReload;

impl Argument for OfReload {
    type Value = ReloadMode;
    const FORM: &'static str = "[--self|--trial TIME|keep]";
    fn read(words: &[&str]) -> Option<ReloadMode> {
        Some(match words {
            [] => ReloadMode::Rice,
            ["--self"] => ReloadMode::Own,
            ["keep"] => ReloadMode::Keep,
            ["--trial", time] => ReloadMode::Trial(TimeSpan::parse(time).filter(|time| !time.is_zero())?),
            _ => return None,
        })
    }
    fn write(value: &ReloadMode) -> String {
        match value {
            ReloadMode::Rice => String::new(),
            ReloadMode::Own => "--self".to_owned(),
            ReloadMode::Keep => "keep".to_owned(),
            ReloadMode::Trial(time) => format!("--trial {}", TimeSpan::words(*time)),
        }
    }
    fn choices(_: &dyn References) -> Vec<String> {
        ["", "--self", "--trial 20s", "keep"].map(str::to_owned).to_vec()
    }
}

/// What lies behind everything.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum BackdropTarget {
    /// The next picture of its folder.
    Next,
    /// The one before.
    Prev,
    /// A picture of the rice.
    Picture {
        /// Its path there.
        path: String,
        /// Whether it gives the palette, too.
        palette: bool,
    },
}

/// Another picture behind everything.
pub(super) struct ToBackdrop;

const WITH_PALETTE: &str = "with-palette";

impl Argument for ToBackdrop {
    type Value = BackdropTarget;
    const FORM: &'static str = "next|prev|PICTURE [with-palette]";
    fn read(words: &[&str]) -> Option<BackdropTarget> {
        match words {
            ["next"] => Some(BackdropTarget::Next),
            ["prev"] => Some(BackdropTarget::Prev),
            [path] => Some(BackdropTarget::Picture { path: (*path).to_owned(), palette: false }),
            [path, word] if *word == WITH_PALETTE => Some(BackdropTarget::Picture { path: (*path).to_owned(), palette: true }),
            _ => None,
        }
    }
    fn write(value: &BackdropTarget) -> String {
        match value {
            BackdropTarget::Next => "next".to_owned(),
            BackdropTarget::Prev => "prev".to_owned(),
            BackdropTarget::Picture { path, palette } => {
                let path = shell_line(std::slice::from_ref(path));
                if *palette { format!("{path} {WITH_PALETTE}") } else { path }
            }
        }
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec!["next".to_owned(), "prev".to_owned()]
    }
}

/// A list of the launcher; none for its first.
pub(super) struct OfList;

impl Argument for OfList {
    type Value = Option<String>;
    const FORM: &'static str = "[LIST]";
    fn read(words: &[&str]) -> Option<Option<String>> {
        match words {
            [] => Some(None),
            [name] => Some(Some((*name).to_owned())),
            _ => None,
        }
    }
    fn write(value: &Option<String>) -> String {
        value.as_ref().map_or_else(String::new, |name| shell_line(std::slice::from_ref(name)))
    }
    fn choices(rice: &dyn References) -> Vec<String> {
        let lists = rice.names(ReferenceKind::List).into_iter().map(|name| shell_line(&[name.to_owned()]));
        std::iter::once(String::new()).chain(lists).collect()
    }
    fn names(value: &Option<String>) -> Option<(ReferenceKind, &str)> {
        value.as_deref().map(|name| (ReferenceKind::List, name))
    }
}

/// What is done with notices.
pub(super) struct OfNotices;

const DEALINGS: [(&str, NotificationCommand); 3] = [
    ("dismiss", NotificationCommand::Dismiss),
    ("dismiss-all", NotificationCommand::DismissAll),
    ("pause", NotificationCommand::Pause),
];

impl Argument for OfNotices {
    type Value = NotificationCommand;
    const FORM: &'static str = "dismiss|dismiss-all|pause [TIME]";
    fn read(words: &[&str]) -> Option<NotificationCommand> {
        match words {
            ["pause", time] => TimeSpan::parse(time).filter(|time| !time.is_zero()).map(NotificationCommand::PauseFor),
            [word] => DEALINGS.iter().find(|(own, _)| own == word).map(|(_, dealing)| *dealing),
            _ => None,
        }
    }
    fn write(value: &NotificationCommand) -> String {
        match value {
            NotificationCommand::PauseFor(time) => format!("pause {}", TimeSpan::words(*time)),
            value => DEALINGS.iter().find(|(_, own)| own == value).map_or_else(String::new, |(word, _)| (*word).to_owned()),
        }
    }
    fn choices(_: &dyn References) -> Vec<String> {
        DEALINGS.iter().map(|(word, _)| (*word).to_owned()).collect()
    }
}

/// A picture of what is seen.
pub(super) struct OfShot;

impl Argument for OfShot {
    type Value = Screenshot;
    const FORM: &'static str = "[window|area] [clipboard|FILE]";
    fn read(words: &[&str]) -> Option<Screenshot> {
        let (of, rest) = match words.split_first() {
            Some((&"window", rest)) => (ScreenshotSource::Window, rest),
            Some((&"area", rest)) => (ScreenshotSource::Area, rest),
            _ => (ScreenshotSource::All, words),
        };
        let to = match rest {
            [] => ScreenshotTarget::Pictures,
            ["clipboard"] => ScreenshotTarget::Clipboard,
            [file] => ScreenshotTarget::File((*file).to_owned()),
            _ => return None,
        };
        Some(Screenshot { of, to })
    }
    fn write(value: &Screenshot) -> String {
        let of = match value.of {
            ScreenshotSource::All => None,
            ScreenshotSource::Window => Some("window".to_owned()),
            ScreenshotSource::Area => Some("area".to_owned()),
        };
        let to = match &value.to {
            ScreenshotTarget::Pictures => None,
            ScreenshotTarget::Clipboard => Some("clipboard".to_owned()),
            ScreenshotTarget::File(file) => Some(shell_line(&[file])),
        };
        of.into_iter().chain(to).collect::<Vec<_>>().join(" ")
    }
    fn choices(_: &dyn References) -> Vec<String> {
        ["", "window", "area", "clipboard", "window clipboard", "area clipboard"].map(str::to_owned).to_vec()
    }
    fn reaches(value: &Screenshot) -> Option<String> {
        let ScreenshotTarget::File(file) = &value.to else { return None };
        Some(format!("writes a picture to {}", shell_line(&[file])))
    }
}
