//! Who reads the keyboard: scopes from the desk inwards, their tables, and everything that is bound in them.

use std::collections::HashMap;
use std::fmt;

use jovrik_schema::Glob;
use jovrik_text::Span;
use jovrik_values::WindowPattern;
use jovrik_values::action::Action;
use jovrik_values::chord::{ChordSequence, Modifier};

use crate::rice::{
    BindingAction, BindingList, BindingTrigger, ExternalAction, LauncherCommand, Rice, ScopeBindings, UnboundKeyPolicy,
    launcher_keys,
};

/// What a binding does.
#[derive(Debug, Clone, PartialEq)]
pub enum BindingTarget {
    /// An action of the desk.
    Act(Action),
    /// What another program does, in free words.
    Says(String),
    /// It is the prefix of its scope.
    Prefix,
}

impl fmt::Display for BindingTarget {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            BindingTarget::Act(action) => action.fmt(f),
            BindingTarget::Says(words) => f.write_str(words),
            BindingTarget::Prefix => f.write_str("prefix"),
        }
    }
}

/// One binding of any scope and mode.
#[derive(Debug, Clone, PartialEq)]
pub struct ScopedBinding {
    /// Its table.
    pub table: usize,
    /// Its chords.
    pub keys: ChordSequence,
    /// Its chords as a person wrote them.
    pub written: String,
    /// What it does.
    pub what: BindingTarget,
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

impl ScopedBinding {
    /// A binding that stands in no file.
    fn of(table: usize, keys: &ChordSequence, written: &str, what: BindingTarget) -> ScopedBinding {
        ScopedBinding {
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
            BindingTarget::Act(action) => *action != Action::None,
            BindingTarget::Says(words) => words != "none",
            BindingTarget::Prefix => true,
        }
    }

    /// What it does, in a few words: its note, or what it says.
    pub fn meaning(&self) -> String {
        self.note.clone().unwrap_or_else(|| self.what.to_string())
    }

    /// The keys that it types instead, if it does that.
    pub fn types(&self, lead: Modifier) -> Option<ChordSequence> {
        let text = match &self.what {
            BindingTarget::Act(Action::Press(text)) => text.as_str(),
            BindingTarget::Says(words) => words.strip_prefix("press ")?,
            _ => return None,
        };
        ChordSequence::parse(text, lead.word()).ok()
    }
}

/// Bindings that are asked together.
#[derive(Debug, Clone, PartialEq)]
pub struct BindingTable {
    /// Its scope.
    pub scope: usize,
    /// Its mode; the plain bindings have none.
    pub mode: Option<String>,
    /// What an unbound key does.
    pub others: UnboundKeyPolicy,
    /// Whether it holds nothing but the prefix of its scope.
    pub prefix: bool,
    /// Whether its bindings come after the prefix of its scope.
    pub after_prefix: bool,
}

/// A reader of the keyboard.
#[derive(Debug, Clone, PartialEq)]
pub struct KeyScope {
    /// Its name; the first is the desk.
    pub name: String,
    /// The program that must have the focus, or a pattern of its app name.
    pub inside: Option<WindowPattern>,
    /// Who is asked before it; nobody before the desk.
    pub outer: Option<usize>,
    /// The keys before its plain bindings.
    pub prefix: Option<ChordSequence>,
    /// Its tables.
    pub tables: Vec<usize>,
}

/// The name of the launcher as a reader of the keyboard: all keys are its own while it is open.
pub const LAUNCHER: &str = "launcher";

/// Everything that reads the keyboard.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Scopes {
    /// The readers, the desk first, each behind the one that is asked before it.
    pub readers: Vec<KeyScope>,
    /// Their tables.
    pub tables: Vec<BindingTable>,
    /// Everything that is bound, in the order of the rice; what programs bind by themselves comes last.
    pub bound: Vec<ScopedBinding>,
    /// Scopes that come after each other in a circle, by name.
    pub circles: Vec<String>,
}

/// How two tables meet.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TableRelation {
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
pub type ExternalBindings = Vec<(String, ScopeBindings<ExternalAction>)>;

/// The most scopes that a rice may have beside the desk: nobody has more programs that read the keyboard.
pub const MAX_SCOPES: usize = 100;

impl Scopes {
    /// The readers of a rice.
    pub fn of(rice: &Rice, known: &ExternalBindings) -> Scopes {
        let mut scopes = Scopes::default();
        scopes.reader("desk", None, None, None);
        scopes.add(0, &rice.keys.desk, false, |action| BindingTarget::Act(action.clone()));
        let mut waiting: Vec<&String> = rice.scope.keys().take(MAX_SCOPES).collect();
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
                scopes.add(at, keys, false, |says| BindingTarget::Says(says.0.clone()));
            }
            for (_, keys) in known.iter().filter(|(scope, _)| *scope == name) {
                scopes.add(at, keys, true, |says| BindingTarget::Says(says.0.clone()));
            }
        }
        scopes
    }

    /// The launcher's keys, and those that it has before a rice says anything.
    fn launcher(&mut self, keys: &ScopeBindings<LauncherCommand>) {
        let scope = self.readers.len();
        self.reader(LAUNCHER, Some(WindowPattern::Glob(Glob(LAUNCHER.to_owned()))), None, None);
        self.add(scope, keys, false, |key| BindingTarget::Says(key.to_string()));
        let table = self.readers[scope].tables[0];
        let own = |chords: &ChordSequence| keys.plain.0.iter().any(|own| own.keys == *chords);
        for (chords, written, key) in launcher_keys().iter().filter(|(chords, ..)| !own(chords)) {
            let what = BindingTarget::Says(key.to_string());
            self.bound.push(ScopedBinding { known: true, fixed: true, ..ScopedBinding::of(table, chords, written, what) });
        }
    }

    fn reader(&mut self, name: &str, inside: Option<WindowPattern>, outer: Option<usize>, prefix: Option<ChordSequence>) {
        let scope = self.readers.len();
        let after_prefix = prefix.is_some();
        let plain = BindingTable { scope, mode: None, others: UnboundKeyPolicy::Pass, prefix: false, after_prefix };
        let mut tables = vec![self.tables.len()];
        self.tables.push(plain.clone());
        if prefix.is_some() {
            tables.push(self.tables.len());
            self.tables.push(BindingTable { prefix: true, after_prefix: false, ..plain });
        }
        self.readers.push(KeyScope { name: name.to_owned(), inside, outer, prefix, tables });
    }

    fn add<D: BindingAction>(&mut self, scope: usize, keys: &ScopeBindings<D>, known: bool, what: impl Fn(&D) -> BindingTarget) {
        let plain = self.readers[scope].tables[0];
        self.add_chords(plain, &keys.plain, known, &what);
        let modes = self.readers[scope].tables.iter().filter_map(|at| Some((self.tables[*at].mode.clone()?, *at)));
        let modes: HashMap<String, usize> = modes.collect();
        for (name, mode) in keys.modes.iter() {
            // The table of the mode, made where there is none.
            let table = modes.get(name).copied().unwrap_or_else(|| {
                let others = mode.others;
                self.tables.push(BindingTable { scope, mode: Some(name.clone()), others, prefix: false, after_prefix: false });
                self.readers[scope].tables.push(self.tables.len() - 1);
                self.tables.len() - 1
            });
            self.add_chords(table, &mode.chords, known, &what);
        }
    }

    fn add_chords<D: BindingAction>(
        &mut self,
        table: usize,
        chords: &BindingList<D>,
        known: bool,
        what: &impl Fn(&D) -> BindingTarget,
    ) {
        for at in &chords.0 {
            // What a person binds here wins over what the program binds by itself; both stand in the list.
            self.bound.push(ScopedBinding {
                table,
                keys: at.keys.clone(),
                written: at.written.clone(),
                what: what(&at.binding.action),
                note: at.binding.note.clone(),
                fixed: at.binding.fixed || known,
                known,
                release: at.binding.on == BindingTrigger::Release,
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
            let what = BindingTarget::Prefix;
            let (place, value) = (*place, *place);
            let written = written.clone();
            let flags = (false, true, true);
            let (release, repeat, holds) = flags;
            self.bound.push(ScopedBinding {
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
    pub fn with_one(&self, table: usize, keys: &ChordSequence, what: &str) -> Scopes {
        let mut scopes = self.clone();
        let what = Action::parse(what)
            .ok()
            .filter(|_| table == 0)
            .map_or_else(|| BindingTarget::Says(what.to_owned()), BindingTarget::Act);
        scopes.bound.push(ScopedBinding::of(table, keys, &keys.to_string(), what));
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
    pub fn reader_of(&self, bound: usize) -> &KeyScope {
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
    pub fn meeting(&self, a: usize, b: usize) -> TableRelation {
        if a == b {
            return TableRelation::Same;
        }
        let over = |a: usize, b: usize| {
            let (outer, inner) = (self.tables[a].scope, self.tables[b].scope);
            self.takes_first(a) && self.outers(inner).any(|scope| scope == outer) && self.both_open(outer, inner)
        };
        if over(a, b) {
            TableRelation::Outer
        } else if over(b, a) {
            TableRelation::Inner
        } else {
            TableRelation::Never
        }
    }

    /// How many bindings come after the prefix of a scope; at least 1.
    pub fn weight(&self, bound: usize) -> i64 {
        let bound = &self.bound[bound];
        if bound.what != BindingTarget::Prefix {
            return 1;
        }
        let plain = self.readers[self.tables[bound.table].scope].tables[0];
        (self.bound.iter().filter(|one| one.table == plain && one.lives()).count() as i64).max(1)
    }
}
