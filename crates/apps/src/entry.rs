//! One desktop entry.

use crate::key_file::{KeyFileError, KeyFileGroup, groups, list, unescaped};

/// Why a file is no desktop entry that can be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum DesktopEntryError {
    /// A line of it.
    #[error(transparent)]
    Line(#[from] KeyFileError),
    /// Something that it must have.
    #[error("it has no {0}")]
    Lacks(&'static str),
}

/// A language, as `LC_MESSAGES` names it: `lang_COUNTRY.ENCODING@MODIFIER`.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Locale {
    /// What is looked for in brackets after a key, the best first.
    names: Vec<String>,
}

impl Locale {
    /// Reads the name of a language; of `C` and `POSIX` nothing is looked for.
    pub fn parse(name: &str) -> Locale {
        let (rest, modifier) = name.split_once('@').map_or((name, None), |(rest, modifier)| (rest, Some(modifier)));
        let rest = rest.split('.').next().unwrap_or_default();
        let (language, country) = rest.split_once('_').map_or((rest, None), |(language, country)| (language, Some(country)));
        if language.is_empty() || ["C", "POSIX"].contains(&language) {
            return Locale::default();
        }
        let mut names = Vec::new();
        if let (Some(country), Some(modifier)) = (country, modifier) {
            names.push(format!("{language}_{country}@{modifier}"));
        }
        if let Some(country) = country {
            names.push(format!("{language}_{country}"));
        }
        if let Some(modifier) = modifier {
            names.push(format!("{language}@{modifier}"));
        }
        names.push(language.to_owned());
        Locale { names }
    }

    fn of<'g>(&self, group: &'g KeyFileGroup, key: &str) -> Option<&'g str> {
        let localised = self.names.iter().find_map(|name| group.get(&format!("{key}[{name}]")));
        localised.or_else(|| group.get(key)).map(|(value, _)| value.as_str())
    }
}

/// Something else that an entry offers.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DesktopAction {
    /// Its id.
    pub id: String,
    /// What it is called.
    pub name: String,
    /// Its icon, where it has one of its own.
    pub icon: String,
    /// What is run.
    pub exec: String,
}

/// A desktop entry of an application.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct DesktopEntry {
    /// What it is called.
    pub name: String,
    /// What kind of thing it is.
    pub generic: String,
    /// What it does.
    pub comment: String,
    /// Other words for it.
    pub keywords: Vec<String>,
    /// The name of its icon, or the file.
    pub icon: String,
    /// What is run; nothing where the bus alone starts it.
    pub exec: String,
    /// A program that must be there.
    pub try_exec: String,
    /// The folder that it is run in.
    pub path: String,
    /// Whether it needs a terminal.
    pub terminal: bool,
    /// Whether it says when it has started; nothing where nobody knows.
    pub startup: Option<bool>,
    /// The class of its windows.
    pub class: String,
    /// Whether the bus starts it.
    pub bus: bool,
    /// Whether it is to be shown in no list.
    pub no_display: bool,
    /// Whether it is as if it were not there.
    pub hidden: bool,
    /// The desktops that show it; all when there are none.
    pub only: Vec<String>,
    /// The desktops that do not.
    pub not: Vec<String>,
    /// The kinds of thing that it is one of (Desktop Menu Specification, registered categories).
    pub categories: Vec<String>,
    /// What else it offers.
    pub actions: Vec<DesktopAction>,
}

impl DesktopEntry {
    /// Reads a file.
    ///
    /// # Errors
    ///
    /// The first line that cannot be understood, or what it must have and has not. `Ok(None)` for what is no application.
    pub fn parse(text: &str, locale: &Locale) -> Result<Option<DesktopEntry>, DesktopEntryError> {
        let all = groups(text)?;
        let group = match all.0.first() {
            Some((name, group)) if name == "Desktop Entry" => group,
            _ => return Err(DesktopEntryError::Lacks("group [Desktop Entry] at its beginning")),
        };
        let plain = |key: &str| group.get(key).map(|(value, _)| unescaped(value)).unwrap_or_default();
        let localised = |group: &KeyFileGroup, key: &str| locale.of(group, key).map(unescaped).unwrap_or_default();
        let lists = |key: &str| group.get(key).map(|(value, _)| list(value)).unwrap_or_default();
        let truth = |key: &str| match group.get(key) {
            None => Ok(None),
            Some((value, line)) => match value.as_str() {
                "true" | "1" => Ok(Some(true)),
                "false" | "0" => Ok(Some(false)),
                _ => Err(DesktopEntryError::from(KeyFileError { line: *line, why: "expected true or false" })),
            },
        };
        let hidden = truth("Hidden")?.unwrap_or_default();
        match plain("Type").as_str() {
            "Application" => {}
            // One that only takes another one away may say no more.
            "" if hidden => return Ok(Some(DesktopEntry { hidden, ..DesktopEntry::default() })),
            "" => return Err(DesktopEntryError::Lacks("Type")),
            _ => return Ok(None),
        }
        let action = |id: String| {
            let group = all.get(&format!("Desktop Action {id}"))?;
            let own = |key: &str| group.get(key).map(|(value, _)| value.clone()).unwrap_or_default();
            let (name, icon, exec) = (localised(group, "Name"), localised(group, "Icon"), own("Exec"));
            (!name.is_empty()).then_some(DesktopAction { id, name, icon, exec })
        };
        let entry = DesktopEntry {
            name: localised(group, "Name"),
            generic: localised(group, "GenericName"),
            comment: localised(group, "Comment"),
            keywords: locale.of(group, "Keywords").map(list).unwrap_or_default(),
            icon: localised(group, "Icon"),
            exec: group.get("Exec").map(|(value, _)| value.clone()).unwrap_or_default(),
            try_exec: plain("TryExec"),
            path: plain("Path"),
            terminal: truth("Terminal")?.unwrap_or_default(),
            startup: truth("StartupNotify")?,
            class: plain("StartupWMClass"),
            bus: truth("DBusActivatable")?.unwrap_or_default(),
            no_display: truth("NoDisplay")?.unwrap_or_default(),
            hidden,
            only: lists("OnlyShowIn"),
            not: lists("NotShowIn"),
            categories: lists("Categories"),
            actions: lists("Actions").into_iter().filter_map(action).collect(),
        };
        if entry.name.is_empty() && !hidden {
            return Err(DesktopEntryError::Lacks("Name"));
        }
        if entry.exec.is_empty() && !entry.bus && !hidden {
            return Err(DesktopEntryError::Lacks("Exec"));
        }
        Ok(Some(entry))
    }

    /// Whether a desktop shows it: `desktops` as `XDG_CURRENT_DESKTOP` has them.
    pub fn shown_in(&self, desktops: &[String]) -> bool {
        if self.hidden || self.no_display {
            return false;
        }
        // The first desktop that either list names decides.
        for desktop in desktops {
            if self.only.contains(desktop) {
                return true;
            }
            if self.not.contains(desktop) {
                return false;
            }
        }
        self.only.is_empty()
    }
}
