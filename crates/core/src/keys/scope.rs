//! Who reads the keyboard: scopes from the desk inwards, their tables, and everything that is bound in them.

use std::collections::HashMap;
use std::fmt;

use super::chord::{Keys, Modifier};
use crate::desk::Action;
use crate::load::Span;
use crate::rice::{Chords, Deed, Glob, LauncherKey, On, Others, Rice, Says, ScopeKeys, WindowPattern, launcher_keys};

/// What a binding does.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// An action of the desk.
    Act(Action),
    /// What another program does, in free words.
    Says(String),
    /// It is the prefix of its scope.
    Prefix,
}

impl fmt::Display for What {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            What::Act(action) => action.fmt(f),
            What::Says(words) => f.write_str(words),
            What::Prefix => f.write_str("prefix"),
        }
    }
}

/// One binding of any scope and mode.
#[derive(Debug, Clone, PartialEq)]
pub struct Bound {
    /// Its table.
    pub table: usize,
    /// Its chords.
    pub keys: Keys,
    /// Its chords as a person wrote them.
    pub written: String,
    /// What it does.
    pub what: What,
    /// What a person says of it.
    pub note: Option<String>,
    /// Whether settling may not move it.
    pub fixed: bool,
    /// Whether the program binds it by itself.
    pub known: bool,
    /// Whether it is done when the keys come up.
    pub release: bool,
    /// Whether it is done again while the keys are held.
    pub repeat: bool,
    /// The bytes of its key; of a prefix, of its value.
    pub place: Span,
    /// The bytes of its value.
    pub value: Span,
    /// Whether it holds: a later one of the same layer may win over it.
    pub holds: bool,
}

impl Bound {
    /// A binding that stands in no file.
    fn of(table: usize, keys: &Keys, written: &str, what: What) -> Bound {
        Bound {
            table,
            keys: keys.clone(),
            written: written.to_owned(),
            what,
            note: None,
            fixed: false,
            known: false,
            release: false,
            repeat: true,
            place: Span::BUILT_IN,
            value: Span::BUILT_IN,
            holds: true,
        }
    }

    /// Whether it does anything.
    pub fn lives(&self) -> bool {
        match &self.what {
            What::Act(action) => *action != Action::None,
            What::Says(words) => words != "none",
            What::Prefix => true,
        }
    }

    /// What it does, in a few words: its note, or what it says.
    pub fn meaning(&self) -> String {
        self.note.clone().unwrap_or_else(|| self.what.to_string())
    }

    /// The keys that it types instead, if it does that.
    pub fn types(&self, lead: Modifier) -> Option<Keys> {
        let text = match &self.what {
            What::Act(Action::Press(text)) => text.as_str(),
            What::Says(words) => words.strip_prefix("press ")?,
            _ => return None,
        };
        Keys::parse(text, lead.word()).ok()
    }
}

/// Bindings that are asked together.
#[derive(Debug, Clone, PartialEq)]
pub struct Table {
    /// Its scope.
    pub scope: usize,
    /// Its mode; the plain bindings have none.
    pub mode: Option<String>,
    /// What an unbound key does.
    pub others: Others,
    /// Whether it holds nothing but the prefix of its scope.
    pub prefix: bool,
    /// Whether its bindings come after the prefix of its scope.
    pub after_prefix: bool,
}

/// A reader of the keyboard.
#[derive(Debug, Clone, PartialEq)]
pub struct Reader {
    /// Its name; the first is the desk.
    pub name: String,
    /// The program that must have the focus, or a pattern of its app name.
    pub inside: Option<WindowPattern>,
    /// Who is asked before it; nobody before the desk.
    pub outer: Option<usize>,
    /// The keys before its plain bindings.
    pub prefix: Option<Keys>,
    /// Its tables.
    pub tables: Vec<usize>,
}

/// The name of the launcher as a reader of the keyboard: all keys are its own while it is open.
pub const LAUNCHER: &str = "launcher";

/// Everything that reads the keyboard.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Scopes {
    /// The readers, the desk first, each behind the one that is asked before it.
    pub readers: Vec<Reader>,
    /// Their tables.
    pub tables: Vec<Table>,
    /// Everything that is bound, in the order of the rice; what programs bind by themselves comes last.
    pub bound: Vec<Bound>,
    /// Scopes that come after each other in a circle, by name.
    pub circles: Vec<String>,
}

/// How two tables meet.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Meeting {
    /// They are one.
    Same,
    /// What the first takes, the second does not get.
    Outer,
    /// What the second takes, the first does not get.
    Inner,
    /// They are never asked for one press.
    Never,
}

/// What programs bind by themselves, by the name of the scope, with the place of the file's name.
pub type Known = Vec<(String, ScopeKeys<Says>)>;

/// The most scopes that a rice may have beside the desk: nobody has more programs that read the keyboard.
pub const MOST_SCOPES: usize = 100;

impl Scopes {
    /// The readers of a rice.
    pub fn of(rice: &Rice, known: &Known) -> Scopes {
        let mut scopes = Scopes::default();
        scopes.reader("desk", None, None, None);
        scopes.add(0, &rice.keys.desk, false, |action| What::Act(action.clone()));
        let mut waiting: Vec<&String> = rice.scope.keys().take(MOST_SCOPES).collect();
        while !waiting.is_empty() {
            let before = waiting.len();
            waiting.retain(|name| {
                let scope = &rice.scope[*name];
                let outer = match scope.after.as_deref() {
                    // A name that is none is told of elsewhere; the scope comes after the desk.
                    Some(after) if rice.scope.contains_key(after) => scopes.readers.iter().position(|one| one.name == after),
                    _ => Some(0),
                };
                let Some(outer) = outer else { return true };
                let inherited = scopes.readers[outer].inside.clone();
                let prefix = scope.prefix.as_ref().map(|prefix| prefix.0.clone());
                scopes.reader(name, scope.inside.clone().or(inherited), Some(outer), prefix);
                false
            });
            if waiting.len() == before {
                scopes.circles = waiting.iter().map(|name| (*name).clone()).collect();
                break;
            }
        }
        let programs = scopes.readers.len();
        scopes.launcher(&rice.keys.launcher);
        for at in 1..programs {
            let name = scopes.readers[at].name.clone();
            if let Some(keys) = rice.keys.scopes.get(&name) {
                scopes.add(at, keys, false, |says| What::Says(says.0.clone()));
            }
            for (_, keys) in known.iter().filter(|(scope, _)| *scope == name) {
                scopes.add(at, keys, true, |says| What::Says(says.0.clone()));
            }
        }
        scopes
    }

    /// The launcher's keys, and those that it has before a rice says anything.
    fn launcher(&mut self, keys: &ScopeKeys<LauncherKey>) {
        let scope = self.readers.len();
        self.reader(LAUNCHER, Some(WindowPattern::Glob(Glob(LAUNCHER.to_owned()))), None, None);
        self.add(scope, keys, false, |key| What::Says(key.to_string()));
        let table = self.readers[scope].tables[0];
        let own = |chords: &Keys| keys.plain.0.iter().any(|own| own.keys == *chords);
        for (chords, written, key) in launcher_keys().iter().filter(|(chords, ..)| !own(chords)) {
            let what = What::Says(key.to_string());
            self.bound.push(Bound { known: true, fixed: true, ..Bound::of(table, chords, written, what) });
        }
    }

    fn reader(&mut self, name: &str, inside: Option<WindowPattern>, outer: Option<usize>, prefix: Option<Keys>) {
        let scope = self.readers.len();
        let after_prefix = prefix.is_some();
        let plain = Table { scope, mode: None, others: Others::Pass, prefix: false, after_prefix };
        let mut tables = vec![self.tables.len()];
        self.tables.push(plain.clone());
        if prefix.is_some() {
            tables.push(self.tables.len());
            self.tables.push(Table { prefix: true, after_prefix: false, ..plain });
        }
        self.readers.push(Reader { name: name.to_owned(), inside, outer, prefix, tables });
    }

    fn add<D: Deed>(&mut self, scope: usize, keys: &ScopeKeys<D>, known: bool, what: impl Fn(&D) -> What) {
        let plain = self.readers[scope].tables[0];
        self.add_chords(plain, &keys.plain, known, &what);
        let modes = self.readers[scope].tables.iter().filter_map(|at| Some((self.tables[*at].mode.clone()?, *at)));
        let modes: HashMap<String, usize> = modes.collect();
        for (name, mode) in keys.modes.iter() {
            // The table of the mode, made where there is none.
            let table = modes.get(name).copied().unwrap_or_else(|| {
                let others = mode.others;
                self.tables.push(Table { scope, mode: Some(name.clone()), others, prefix: false, after_prefix: false });
                self.readers[scope].tables.push(self.tables.len() - 1);
                self.tables.len() - 1
            });
            self.add_chords(table, &mode.chords, known, &what);
        }
    }

    fn add_chords<D: Deed>(&mut self, table: usize, chords: &Chords<D>, known: bool, what: &impl Fn(&D) -> What) {
        for at in &chords.0 {
            // What a person binds here wins over what the program binds by itself; both stand in the list.
            self.bound.push(Bound {
                table,
                keys: at.keys.clone(),
                written: at.written.clone(),
                what: what(&at.binding.action),
                note: at.binding.note.clone(),
                fixed: at.binding.fixed || known,
                known,
                release: at.binding.on == On::Release,
                repeat: at.binding.repeat,
                place: at.place,
                value: at.value,
                holds: at.holds,
            });
        }
    }

    /// Adds the prefixes, each with the place where it stands and as it is written there; then sorts all by place.
    pub fn with_prefixes(mut self, places: &[(String, Span, String)]) -> Scopes {
        for scope in 0..self.readers.len() {
            let reader = &self.readers[scope];
            let (Some(keys), Some((_, place, written))) =
                (reader.prefix.clone(), places.iter().find(|(name, ..)| *name == reader.name))
            else {
                continue;
            };
            let Some(table) = reader.tables.iter().copied().find(|at| self.tables[*at].prefix) else { continue };
            let what = What::Prefix;
            let (place, value) = (*place, *place);
            let written = written.clone();
            let flags = (false, true, true);
            let (release, repeat, holds) = flags;
            self.bound.push(Bound {
                table,
                keys,
                written,
                what,
                note: None,
                fixed: false,
                known: false,
                release,
                repeat,
                place,
                value,
                holds,
            });
        }
        self.bound.sort_by_key(|bound| (bound.known, bound.place));
        self
    }

    /// With one more binding, such as one that is looked for a place; it is the last.
    #[must_use]
    pub fn with_one(&self, table: usize, keys: &Keys, what: &str) -> Scopes {
        let mut scopes = self.clone();
        let what = Action::parse(what).ok().filter(|_| table == 0).map_or_else(|| What::Says(what.to_owned()), What::Act);
        scopes.bound.push(Bound::of(table, keys, &keys.to_string(), what));
        scopes
    }

    /// The tables that a person has to do with: not those of the launcher while a rice says nothing of it.
    pub fn tables_used(&self) -> usize {
        let written = |at: usize| self.bound.iter().any(|bound| bound.table == at && bound.place.written());
        let used = |at: &usize| self.readers[self.tables[*at].scope].name != LAUNCHER || written(*at);
        (0..self.tables.len()).filter(used).count()
    }

    /// The readers of those.
    pub fn readers_used(&self) -> usize {
        let unwritten = self.tables.len() - self.tables_used();
        self.readers.len() - unwritten.min(1)
    }

    /// The reader of a binding.
    pub fn reader_of(&self, bound: usize) -> &Reader {
        &self.readers[self.tables[self.bound[bound].table].scope]
    }

    /// What a table is called: `the desk`, `mux`, `editor, normal`.
    pub fn table_name(&self, table: usize) -> String {
        let table = &self.tables[table];
        match (&self.readers[table.scope].name, &table.mode) {
            (scope, None) if table.scope == 0 => format!("the {scope}"),
            (scope, None) => scope.clone(),
            (scope, Some(mode)) => format!("{scope}, {mode}"),
        }
    }

    /// Whether what this table takes is never got by scopes behind its own.
    pub fn takes_first(&self, table: usize) -> bool {
        let table = &self.tables[table];
        table.mode.is_none() && !table.after_prefix
    }

    /// The scopes that are asked before one, the nearest first.
    pub fn outers(&self, scope: usize) -> impl Iterator<Item = usize> {
        std::iter::successors(self.readers[scope].outer, |scope| self.readers[*scope].outer)
    }

    /// Whether two scopes, one outside of the other, are ever open together.
    fn both_open(&self, outer: usize, inner: usize) -> bool {
        let (Some(a), Some(b)) = (&self.readers[outer].inside, &self.readers[inner].inside) else { return true };
        match (a, b) {
            _ if a == b => true,
            (WindowPattern::Glob(a), WindowPattern::Glob(b)) => a.matches(&b.0) || b.matches(&a.0),
            (WindowPattern::Expression(a), WindowPattern::Glob(b)) => a.is_match(&b.0) || b.0.contains('*'),
            (WindowPattern::Glob(a), WindowPattern::Expression(b)) => b.is_match(&a.0) || a.0.contains('*'),
            _ => true,
        }
    }

    /// How two tables meet.
    pub fn meeting(&self, a: usize, b: usize) -> Meeting {
        if a == b {
            return Meeting::Same;
        }
        let over = |a: usize, b: usize| {
            let (outer, inner) = (self.tables[a].scope, self.tables[b].scope);
            self.takes_first(a) && self.outers(inner).any(|scope| scope == outer) && self.both_open(outer, inner)
        };
        if over(a, b) {
            Meeting::Outer
        } else if over(b, a) {
            Meeting::Inner
        } else {
            Meeting::Never
        }
    }

    /// How many bindings come after the prefix of a scope; at least 1.
    pub fn weight(&self, bound: usize) -> i64 {
        let bound = &self.bound[bound];
        if bound.what != What::Prefix {
            return 1;
        }
        let plain = self.readers[self.tables[bound.table].scope].tables[0];
        (self.bound.iter().filter(|one| one.table == plain && one.lives()).count() as i64).max(1)
    }
}
