//! Bindings: fights, keys that are taken or that no keyboard has, actions that lead nowhere, scopes.

use jovrik_schema::{Branch, Tree};
use jovrik_text::problem::{Problem, in_words, nearest};
use jovrik_toml::SpannedValue;
use jovrik_values::action::{Action, ReferenceKind};
use jovrik_values::chord::{ChordKey, sym_name};

use super::CheckContext;
use crate::keys::{
    BindingLabels, BindingTarget, Conflict, ConflictKind, KeyboardLayout, KeyboardLayouts, MAX_SCOPES, ScopedBinding, Scopes,
    UnknownLayout, fights, loops, traps, ways,
};

const SETTLE: (&str, &str) = ("jovrik keys settle", "finds the cheapest free place for one of them");

/// The tables of a rice that the check of keys looks at, beside the names of its bars.
pub(super) const READS: &[&str] =
    &["keys", "scope", "keyboard", "workspaces", "workspace", "monitor", "layout", "program", "module", "palette"];

pub(super) fn check(looker: &CheckContext<'_>, missing: &[UnknownLayout], problems: &mut Vec<Problem>) {
    layouts(looker, missing, problems);
    readers(looker, problems);
    let (scopes, keyboards) = (looker.scopes, looker.keyboards);
    let names = BindingLabels { scopes, keyboards, lead: looker.rice.keys.lead.0 };
    let teller = ConflictReporter { looker, names };
    problems.extend(fights(scopes, keyboards).iter().map(|fight| teller.fight(fight)));
    problems.extend(traps(scopes).into_iter().filter_map(|table| teller.trap(table)));
    problems.extend(loops(scopes, keyboards.first(), names.lead).iter().map(|ring| teller.ring(ring)));
    for (at, bound) in scopes.bound.iter().enumerate().filter(|(_, bound)| !bound.known) {
        if bound.lives() {
            problems.extend(teller.reserved(at));
            // Where a layout could not be read, nobody knows what it makes.
            problems.extend(teller.no_key(bound).filter(|_| missing.is_empty()));
        }
        if let BindingTarget::Act(action) = &bound.what {
            target(looker, bound, action, problems);
        }
    }
}

/// Layouts that do not exist.
fn layouts(looker: &CheckContext<'_>, missing: &[UnknownLayout], problems: &mut Vec<Problem>) {
    let keyboard = &looker.rice.keyboard;
    for one in missing {
        let Some(name) = looker.rice.keys.must_work_on.get(one.nth) else { continue };
        let lists = [["keys", "must-work-on"], ["keyboard", "layouts"]];
        let place = lists
            .iter()
            .find_map(|path| looker.items(path).into_iter().find(|(item, _)| item == name))
            .map(|(_, node)| node.span);
        let variant = keyboard.layouts.iter().position(|other| other == name).and_then(|at| keyboard.variant.get(at));
        let (layout, own) = crate::keys::RuleNames::parse(name, variant.map_or("", String::as_str));
        let variant_place =
            looker.items(&["keyboard", "variant"]).into_iter().find(|(item, _)| *item == own).map(|(_, node)| node.span);
        let (title, word, place) = if one.variant {
            (format!("the layout {layout} has no variant {own}"), own, variant_place.or(place))
        } else {
            (format!("there is no keyboard layout {layout}"), layout, place)
        };
        let problem = Problem::error("keys/no-layout", title).because("Without it nobody can tell which keys make what.");
        let Some(place) = place else { continue };
        problems.push(match nearest(&word, one.known.iter().map(String::as_str)) {
            Some(near) if looker.sources.slice(place).trim_matches(['"', '\'']) == word => {
                problem.at(place, format!("did you mean {near}?")).mend(place, jovrik_toml::quoted(near), near)
            }
            Some(near) => problem.at(place, format!("did you mean {near}?")),
            None if one.known.len() > 12 => problem.at(place, format!("{word} is not among the system's layouts")),
            None => problem.at(place, format!("there are {}", in_words(&one.known))),
        });
    }
}

/// Scopes that are named and not there, or come after themselves; files of known keys.
fn readers(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let names = looker.rolls.scopes(rice);
    for (name, scope) in rice.scope.iter() {
        let path = ["scope", name.as_str()];
        let key = looker.tree.get(&path).and_then(Tree::branch).and_then(|branch| branch.key);
        let taken = jovrik_schema::catalogue::table_of(<crate::rice::KeysSettings as jovrik_schema::catalogue::Setting>::SHAPE)
            .field(name);
        if let (Some(_), Some(key)) = (taken, key) {
            problems.push(
                Problem::error("setting/reserved", format!("a scope cannot be called {name}"))
                    .at(key, "choose another name")
                    .because(format!("In [keys] the word {name} means something else.")),
            );
        }
        if let (Some(after), Some(node)) = (&scope.after, looker.node(&["scope", name, "after"]))
            && !rice.scope.contains_key(after)
            && after != "desk"
        {
            problems.push(names.no_such("keys/no-scope", after, node, "Nobody can tell when this one is asked."));
        }
        if let (Some(known), Some(node)) = (&scope.known, looker.node(&["scope", name, "known"]))
            && !looker.known.iter().any(|(other, _)| other == name)
        {
            problems.push(
                Problem::error("file/not-found", format!("there is no file {known}"))
                    .at(node.span, "expected a file of this rice, in art/")
                    .because("What the program binds by itself stands there: chord = what it does."),
            );
        }
    }
    if let Some(name) = rice.scope.keys().nth(MAX_SCOPES)
        && let Some(key) = looker.tree.get(&["scope", name]).and_then(Tree::branch).and_then(|branch| branch.key)
    {
        problems.push(
            Problem::error("setting/range", format!("the rice has {} scopes; {MAX_SCOPES} is the most", rice.scope.len()))
                .at(key, "this one and those behind it are left out")
                .because("What is bound in them is not looked at."),
        );
    }
    if let [first, ..] = looker.scopes.circles.as_slice()
        && let Some(node) = looker.node(&["scope", first, "after"])
    {
        problems.push(
            Problem::error(
                "keys/loop",
                match looker.scopes.circles.as_slice() {
                    [one] => format!("the scope {one} comes after itself"),
                    all => format!("the scopes {} come after each other in a circle", in_words(all)),
                },
            )
            .at(node.span, "this one")
            .because("Somebody must be asked first.")
            .advise("take one after away", "so that it comes after the desk"),
        );
    }
    let keys = looker.tree.entries.get("keys").and_then(Tree::branch);
    for name in rice.keys.scopes.keys().filter(|name| !names.has(name)) {
        let place = keys.and_then(|keys| keys.entries.get(name)).and_then(Tree::branch).and_then(|branch: &Branch| branch.key);
        let Some(place) = place else { continue };
        let problem = Problem::error("keys/no-scope", format!("there is no scope {name}"))
            .because("Bindings of a scope are read when [scope.NAME] says who it is.");
        problems.push(match names.nearest(name).or_else(|| nearest(name, ["desk"])) {
            Some(near) => problem.at(place, format!("did you mean {near}?")),
            None => problem.at(place, "of nobody").advise(format!("[scope.{}]", jovrik_toml::bare(name)), "makes it one"),
        });
    }
    for (scope, modes) in std::iter::once(("desk", rice.keys.desk.modes.keys().collect::<Vec<_>>()))
        .chain(rice.keys.scopes.iter().map(|(name, keys)| (name.as_str(), keys.modes.keys().collect())))
    {
        for mode in modes.into_iter().filter(|mode| matches!(mode.as_str(), "leave" | "plain")) {
            let key = looker.tree.get(&["keys", scope, "modes", mode]).and_then(Tree::branch).and_then(|branch| branch.key);
            problems.extend(key.map(|key| {
                Problem::error("setting/reserved", format!("a mode cannot be called {mode}"))
                    .at(key, "choose another name")
                    .because("The word means no mode at all.")
            }));
        }
    }
}

/// Says what was found.
struct ConflictReporter<'l, 'a> {
    looker: &'l CheckContext<'a>,
    names: BindingLabels<'l>,
}

impl ConflictReporter<'_, '_> {
    fn bound(&self, at: usize) -> &ScopedBinding {
        &self.looker.scopes.bound[at]
    }

    fn scopes(&self) -> &Scopes {
        self.looker.scopes
    }

    fn keyboards(&self) -> &KeyboardLayouts {
        self.looker.keyboards
    }

    fn fight(&self, fight: &Conflict) -> Problem {
        let first = self.bound(fight.bindings[0]);
        let title = self.names.title(fight);
        match fight.kind {
            ConflictKind::Twice => {
                let mut problem = Problem::error("keys/twice", title);
                for (nth, at) in fight.bindings.iter().enumerate() {
                    let bound = self.bound(*at);
                    let spelling = if nth == 0 {
                        ""
                    } else if bound.written == first.written {
                        "; the same keys"
                    } else if bound.keys == first.keys {
                        "; the same keys, spelled differently"
                    } else {
                        "; the same key of the keyboard"
                    };
                    let wins = if nth + 1 == fight.bindings.len() { "; read later, so it would win" } else { "" };
                    problem = problem.at(bound.place, format!("{}{spelling}{wins}", bound.meaning()));
                }
                let one = if fight.bindings.len() == 2 {
                    "Pressing it can do only one of the two."
                } else {
                    "Pressing it can do only one of them."
                };
                problem.because(one).advise(SETTLE.0, SETTLE.1)
            }
            ConflictKind::Stalls => {
                let mut problem =
                    Problem::error("keys/stalls", title).at(first.place, format!("{}; it would have to wait", first.meaning()));
                for at in &fight.bindings[1..] {
                    problem =
                        problem.at(self.bound(*at).place, format!("{}; begins with the same keys", self.bound(*at).meaning()));
                }
                problem.because("Nobody can tell which one is meant until the next press.").advise(SETTLE.0, SETTLE.1)
            }
            ConflictKind::Swallowed => {
                let inner: Vec<&ScopedBinding> = fight.bindings[1..].iter().map(|at| self.bound(*at)).collect();
                let mut problem = Problem::error("keys/swallowed", title);
                let lost = match (inner[0].what == BindingTarget::Prefix, self.scopes().weight(fight.bindings[1])) {
                    (true, 2..) => {
                        format!("prefix of {} bindings; none of them ever happens", self.scopes().weight(fight.bindings[1]))
                    }
                    _ => format!("{}; never happens", inner[0].meaning()),
                };
                problem = problem.at(inner[0].place, lost);
                problem = problem.at(first.place, format!("{}; asked first", first.meaning()));
                for bound in &inner[1..] {
                    problem = problem.at(bound.place, format!("{}; never happens", bound.meaning()));
                }
                problem.because("Whoever is asked first takes the keys from everybody further in.").advise(SETTLE.0, SETTLE.1)
            }
            ConflictKind::Displaced => {
                let lost: Vec<&ScopedBinding> = fight.bindings[1..].iter().map(|at| self.bound(*at)).collect();
                let names: Vec<String> = lost.iter().map(|bound| bound.meaning()).collect();
                let mut problem = Problem::warning("keys/displaced", title).at(first.place, first.meaning());
                for bound in lost.iter().take(3) {
                    problem = problem.at(bound.place, format!("{}; no longer there", bound.meaning()));
                }
                let elsewhere = lost.iter().find_map(|bound| self.elsewhere(bound));
                match elsewhere {
                    Some(other) => problem.because(format!("{} can still be reached: {other}.", in_words(&names))),
                    None => problem.because(format!("{} is bound nowhere else.", in_words(&names))).advise(
                        format!("jovrik keys free --near {}", quote(&self.names.chord(first))),
                        "lists free places for it",
                    ),
                }
            }
        }
    }

    /// Where else something that was lost is bound.
    fn elsewhere(&self, lost: &ScopedBinding) -> Option<String> {
        let scope = self.scopes().tables[lost.table].scope;
        let other = self.scopes().bound.iter().find(|other| {
            other.place != lost.place && self.scopes().tables[other.table].scope == scope && other.what == lost.what
        })?;
        Some(format!("{} does the same", other.keys.with_lead(self.names.lead)))
    }

    fn trap(&self, table: usize) -> Option<Problem> {
        let mode = self.scopes().tables[table].mode.clone()?;
        let key = self.looker.tree.get(&["keys", "desk", "modes", mode.as_str()]).and_then(Tree::branch)?.key?;
        Some(
            Problem::error("keys/trap", format!("no binding leaves the mode {mode}"))
                .at(key, "whoever gets in stays in")
                .because("All plain bindings of the desk are out of reach there.")
                .advise("\"Escape\" = \"mode leave\"", "in this table leaves it"),
        )
    }

    fn ring(&self, ring: &[usize]) -> Problem {
        let chords: Vec<String> =
            ring.iter().chain(&ring[..1]).map(|at| self.bound(*at).keys.with_lead(self.names.lead)).collect();
        let mut problem = Problem::error("keys/loop", format!("{} types itself", chords[0]));
        for at in ring {
            problem = problem.at(self.bound(*at).place, self.bound(*at).what.to_string());
        }
        problem.because(format!("Pressing it would never end: {}.", chords.join(", then ")))
    }

    fn reserved(&self, at: usize) -> Option<Problem> {
        let bound = self.bound(at);
        let why = self
            .keyboards()
            .iter()
            .find_map(|keyboard| bound.keys.0.iter().find_map(|chord| keyboard.reserved(*keyboard.presses(chord).first()?)))?;
        Some(
            Problem::error("keys/reserved", format!("{} never arrives: {why}", bound.keys))
                .at(bound.place, "choose other keys")
                .because("Such keys are taken before any desktop is asked."),
        )
    }

    /// Layouts on which no key makes a chord.
    fn no_key(&self, bound: &ScopedBinding) -> Option<Problem> {
        let lacks: Vec<&KeyboardLayout> =
            self.keyboards().iter().filter(|keyboard| ways(&bound.keys, keyboard).is_empty()).collect();
        let (first, names) = (*lacks.first()?, lacks.iter().map(|keyboard| keyboard.layout.as_str()).collect::<Vec<_>>());
        let chord = bound.keys.0.iter().find(|chord| first.presses(chord).is_empty())?;
        let keys = bound.keys.with_lead(self.names.lead);
        if let Some(modifier) = first.lacks(chord.modifiers) {
            let title = format!("{keys} cannot be pressed on the layout {}", in_words(&names));
            let note = format!("no key gives {}", modifier.word());
            return Some(Problem::error("keys/no-key", title).at(bound.place, note).because("The binding can never fire there."));
        }
        let made = match &chord.key {
            ChordKey::Sym(sym) => sym_name(*sym),
            ChordKey::Place(place) => place.clone(),
            ChordKey::Button(number) => format!("button {number}"),
        };
        let problem = Problem::error("keys/no-key", format!("no key of the layout {} makes {made}", in_words(&names)))
            .because("The binding can never fire there.");
        // The key of a layout that has it lies somewhere on the other ones, too.
        let press = self.keyboards().iter().find_map(|keyboard| keyboard.presses(chord).first().copied());
        let there = press.and_then(|press| Some((press, first.plain_sym(press.key)?, first.cap(press.key)?.name.clone())));
        Some(match there {
            Some((_, sym, name)) => {
                let place = keys.replacen(&made, &format!("<{name}>"), 1);
                problem
                    .at(bound.place, format!("the key that makes it elsewhere makes {} there", sym_name(sym)))
                    .advise(quote(&place), "is the same key on every layout")
            }
            None => problem.at(bound.place, "choose other keys"),
        })
    }
}

fn quote(text: &str) -> String {
    jovrik_toml::quoted(text)
}

/// Checks what the action of a binding names.
fn target(looker: &CheckContext<'_>, bound: &ScopedBinding, action: &Action, problems: &mut Vec<Problem>) {
    let text = looker.sources.slice(bound.value).to_owned();
    // The place of a plain action is its text; of a table, the whole table, which is never mended.
    let node = SpannedValue { span: bound.value, ..SpannedValue::built_in(jovrik_toml::TomlValue::String(action.to_string())) };
    let plain = text.starts_with(['"', '\'']);
    for action in action.each() {
        problems.extend(
            leads_nowhere(looker, action, &node).map(|problem| if plain { problem } else { Problem { fix: None, ..problem } }),
        );
    }
}

/// What an action names and is not there; `node` is the action as a text, where it stands.
pub(super) fn leads_nowhere(looker: &CheckContext<'_>, action: &Action, node: &SpannedValue) -> Option<Problem> {
    let rice = looker.rice;
    let rolls = &looker.rolls;
    if let Some((thing, name)) = action.names() {
        let (roll, why) = match thing {
            ReferenceKind::Program if !rice.program.contains_key(name) => {
                let why = "Pressing it would start nothing. Programs are named in [program].";
                return Some(rolls.programs(rice).no_such("keys/nothing-to-open", name, node, why));
            }
            ReferenceKind::Program => return None,
            ReferenceKind::Workspace => (rolls.workspaces(rice), "Pressing it would go nowhere."),
            ReferenceKind::Layout => (rolls.layouts(rice), "Pressing it would change nothing."),
            ReferenceKind::Bar => (rolls.bars(rice), "Pressing it would do nothing."),
            ReferenceKind::Group => (rolls.groups(rice), "Pressing it would do nothing."),
            ReferenceKind::Mode => {
                let why = "Pressing it would change nothing. Modes are tables such as [keys.desk.modes.sizing].";
                (rolls.modes(rice), why)
            }
            ReferenceKind::Keyboard => (rolls.keyboards(rice), "Pressing it would change nothing."),
            ReferenceKind::List => (rolls.lists(rice), "Pressing it would open nothing."),
            ReferenceKind::Palette => (rolls.palettes(rice), "Pressing it would change nothing."),
        };
        return (!roll.has(name)).then(|| roll.no_such("keys/unknown-action", name, node, why));
    }
    match action {
        Action::Press(text) => {
            let spelling = jovrik_values::chord::ChordSequence::parse(text, rice.keys.lead.0.word()).err()?;
            let wrong = spelling.wrong();
            let title = wrong.title.unwrap_or_else(|| format!("{text} is no chord"));
            Some(Problem::error(wrong.code, title).at(node.span, wrong.note).because("Pressing it would type nothing."))
        }
        Action::Set(setting) => {
            let steps: Vec<&str> = setting.path.split('.').collect();
            let (title, note) = match crate::rice::reach_of(&steps) {
                Some(jovrik_schema::catalogue::Capability::None) => return None,
                Some(_) => (format!("{} reaches beyond the desk", setting.path), "it is set in the rice alone"),
                None => (format!("there is no setting {}", setting.path), "not a setting with one value"),
            };
            Some(Problem::error("keys/unknown-action", title).at(node.span, note).because("Pressing it would set nothing."))
        }
        _ => None,
    }
}
