//! The merged tree to typed settings: defaults, references, and what is wrong with a value.

use std::borrow::Cow;
use std::rc::Rc;

use jovrik_text::problem::{Problem, nearest};
use jovrik_text::{Sources, Span};
use jovrik_toml::{SpannedValue, TomlValue, ValueError, parse_value};

use crate::ColourRoles;
use crate::catalogue::{self, AtomicSetting, Setting, SettingTable, ValueConstraint};
use crate::merge::{Branch, ConfigLayer, Merger, Tree};

/// The longest chain of references that is followed.
pub const MAX_REFERENCE_STEPS: usize = jovrik_text::limits::REFERENCE_STEPS;

/// What becomes of a value that is refused and has no default.
const LEFT_OUT: &str = "It counts as not written until it is mended.";

/// So many parts of one value are told of.
const MAX_REFUSED_PARTS: usize = 16;

/// A place in the tree while reading.
#[derive(Debug, Clone, Copy)]
pub struct ReadCursor<'a> {
    /// What stands there.
    pub tree: Option<&'a Tree>,
    /// The default of the catalogue.
    pub default: Option<&'static str>,
    name: &'a str,
    parent: Option<&'a ReadCursor<'a>>,
}

impl<'a> ReadCursor<'a> {
    /// The top of a tree, which must be a branch.
    pub fn top(tree: &'a Tree) -> Self {
        Self { tree: Some(tree), default: None, name: "", parent: None }
    }

    /// A place where nothing stands: all defaults.
    pub fn nowhere() -> Self {
        Self { tree: None, default: None, name: "", parent: None }
    }

    /// A field of the table here.
    pub fn field<'b>(&'b self, name: &'b str, default: Option<&'static str>) -> ReadCursor<'b>
    where
        'a: 'b,
    {
        let tree = self.tree.and_then(Tree::branch).and_then(|branch| branch.entries.get(name));
        ReadCursor { tree, default, name, parent: Some(self) }
    }

    /// The path from the top.
    pub fn path(&self) -> String {
        let mut steps = Vec::new();
        let mut at = Some(self);
        while let Some(here) = at {
            if here.parent.is_some() {
                steps.push(here.name);
            }
            at = here.parent;
        }
        steps.reverse();
        jovrik_toml::path_of(&steps)
    }
}

/// Reads one table by itself, such as a manifest or a machine's facts.
pub fn read_table<T: Setting>(
    sources: &Sources,
    entries: Vec<(String, SpannedValue)>,
    problems: &mut Vec<Problem>,
) -> (T, Branch) {
    read_table_with(sources, entries, "Super", problems)
}

/// Reads one table by itself; `lead` is the modifier that `Lead` stands for.
pub fn read_table_with<T: Setting>(
    sources: &Sources,
    entries: Vec<(String, SpannedValue)>,
    lead: &str,
    problems: &mut Vec<Problem>,
) -> (T, Branch) {
    let table = catalogue::table_of(T::SHAPE);
    let mut merger = Merger::new(sources, lead);
    merger.lay(entries, table, ConfigLayer::Parts);
    problems.append(&mut merger.problems);
    let tree = Tree::Branch(std::mem::take(&mut merger.tree));
    let nothing = Branch::default();
    let mut reader = SettingReader::new(sources, tree.branch().unwrap_or(&nothing), table, lead);
    let value = T::read(&mut reader, &ReadCursor::top(&tree));
    problems.append(&mut reader.problems);
    match tree {
        Tree::Branch(branch) => (value, branch),
        Tree::Leaf(_) => (value, nothing),
    }
}

/// Reads typed settings out of a merged tree.
#[derive(Debug)]
pub struct SettingReader<'t> {
    /// The files, for messages.
    pub sources: &'t Sources,
    /// The modifier that `Lead` stands for.
    pub lead: String,
    /// The palette whose roles `@role` names, once it is read.
    pub palette: Option<Rc<dyn ColourRoles>>,
    /// What was found.
    pub problems: Vec<Problem>,
    tree: &'t Branch,
    table: &'static SettingTable,
}

impl<'t> SettingReader<'t> {
    /// A reader of a tree along a catalogue.
    pub fn new(sources: &'t Sources, tree: &'t Branch, table: &'static SettingTable, lead: &str) -> Self {
        Self { sources, lead: lead.to_owned(), palette: None, problems: Vec::new(), tree, table }
    }

    /// Reads one value: what the rice says, else the default, else the blank of its type.
    pub fn value<T: AtomicSetting>(&mut self, at: &ReadCursor<'_>) -> T {
        self.value_of(at, at.tree.and_then(Tree::leaf).map(|leaf| &leaf.node))
    }

    /// Reads one value from a node that stands, or stood, at a place.
    pub fn value_of<T: AtomicSetting>(&mut self, at: &ReadCursor<'_>, written: Option<&SpannedValue>) -> T {
        if let Some(node) = written {
            let reference = node.text().is_some_and(|text| text.starts_with('='));
            let followed = if reference { self.follow(node, &mut vec![at.path()]) } else { Ok(None) };
            match followed {
                Ok(resolved) => match T::from_node(resolved.as_ref().unwrap_or(node), self) {
                    Ok(value) => return value,
                    Err(wrong) => {
                        let first = wrong.span;
                        let about = (T::KIND.allowed, at.default.is_some());
                        self.refuse(&at.path(), node, wrong, about);
                        if !reference {
                            self.refuse_rest::<T>(&at.path(), node, first, about);
                        }
                    }
                },
                Err(problem) => {
                    // The place to change is where the following began.
                    self.problems.extend(problem.map(|mut problem| {
                        if problem.code == "setting/loop" {
                            problem.marks[0].span = node.span;
                        }
                        *problem
                    }));
                }
            }
        }
        let Some(node) = at.default.and_then(parse_value) else { return T::default() };
        let node = self.follow(&node, &mut Vec::new()).ok().flatten().unwrap_or(node);
        T::from_node(&node, self).unwrap_or_default()
    }

    /// Follows `=path` to a value; `None` when the value is no reference. `seen` begins with the path one comes from.
    fn follow(&self, node: &SpannedValue, seen: &mut Vec<String>) -> Result<Option<SpannedValue>, Option<Box<Problem>>> {
        let mut here = node.clone();
        let mut followed = false;
        loop {
            let Some(target) = here.text().and_then(|text| text.strip_prefix('=')) else {
                // The value is another setting's, the place is the one a person can change here.
                return Ok(followed.then(|| SpannedValue { value: here.value, ..node.clone() }));
            };
            if let Some(literal) = target.strip_prefix('=') {
                return Ok(Some(SpannedValue { value: TomlValue::String(format!("={literal}")), ..node.clone() }));
            }
            let steps = jovrik_toml::steps(target);
            // Spelled in one way, so that a loop is known however it is quoted.
            let target = jovrik_toml::path_of(&steps);
            if let Some(from) = seen.iter().position(|earlier| *earlier == target) {
                // Every member of the loop comes by here; the first by name speaks for all.
                let speaks = from == 0 && seen.iter().min() == seen.first();
                return Err(speaks.then(|| Box::new(self.loop_of(node, &target, seen))));
            }
            let found = match self.tree.get(&steps) {
                Some(Tree::Leaf(leaf)) => Some(leaf.node.clone()),
                _ => match catalogue::find(self.table, &steps) {
                    Ok(catalogue::CatalogueMatch::Field(field)) => field.default.and_then(parse_value),
                    _ => None,
                },
            };
            if seen.len() > MAX_REFERENCE_STEPS {
                let title = format!("{} takes its value through more than {MAX_REFERENCE_STEPS} others", seen[0]);
                let problem = Problem::error("setting/loop", title).at(node.span, "too long a way");
                return Err(Some(Box::new(
                    problem.because("Nobody could follow it.").advise("take the value from its source", ""),
                )));
            }
            here = found.ok_or_else(|| Some(Box::new(self.no_target(node, &target))))?;
            seen.push(target);
            followed = true;
        }
    }

    /// A value inside of a list or of a table that is one value, its reference followed.
    pub fn resolved<'n>(&self, node: &'n SpannedValue) -> Result<Cow<'n, SpannedValue>, ValueError> {
        if !node.text().is_some_and(|text| text.starts_with('=')) {
            return Ok(Cow::Borrowed(node));
        }
        match self.follow(node, &mut vec![String::new()]) {
            Ok(found) => Ok(found.map_or(Cow::Borrowed(node), Cow::Owned)),
            Err(Some(problem)) => {
                let note = problem.marks.first().map(|mark| mark.note.clone()).unwrap_or_default();
                let mend = problem.fix.as_ref().and_then(|fix| Some(fix.edits.first()?.text.clone()));
                Err(ValueError { mend, ..ValueError::coded(problem.code, problem.title.clone(), note) }.within(node))
            }
            Err(None) => {
                let title = "this value goes round in a loop of others";
                Err(ValueError::coded("setting/loop", title, "it never comes to a value").within(node))
            }
        }
    }

    fn loop_of(&self, node: &SpannedValue, target: &str, seen: &[String]) -> Problem {
        let mut chain: Vec<&str> = seen.iter().map(String::as_str).collect();
        chain.push(target);
        Problem::error("setting/loop", format!("{} takes its value from itself", seen[0]))
            .at(node.span, chain.join(" = "))
            .because("No value can be found on the way round.")
            .advise("write a value in one of them", "and let the others follow it")
    }

    fn no_target(&self, node: &SpannedValue, target: &str) -> Problem {
        let mut paths = Vec::new();
        catalogue::each(self.table, &mut |path, _| paths.push(path.to_owned()));
        let problem = Problem::error("setting/unknown", format!("there is no {target} to take a value from"))
            .because("A value that begins with = is the value of another setting; a text that begins with = doubles it.");
        match nearest(target, paths.iter().map(String::as_str)) {
            Some(near) => problem.at(node.span, format!("did you mean ={near}?")).mend(
                node.span,
                jovrik_toml::quoted(&format!("={near}")),
                format!("={near}"),
            ),
            None => problem.at(node.span, "no setting has this path"),
        }
    }

    /// What else is wrong with a value of several parts: it is read again without the part that was refused.
    fn refuse_rest<T: AtomicSetting>(
        &mut self,
        path: &str,
        node: &SpannedValue,
        mut refused: Option<Span>,
        about: (ValueConstraint, bool),
    ) {
        let mut rest = node.clone();
        for _ in 0..MAX_REFUSED_PARTS {
            let Some(span) = refused.filter(|span| *span != rest.span) else { return };
            if !take_out(&mut rest, span) {
                return;
            }
            let Err(wrong) = T::from_node(&rest, self) else { return };
            // Without the part that was taken out, the whole may lack something: only what stands there is told.
            refused = wrong.span.filter(|span| *span != node.span);
            if refused.is_some() {
                self.refuse(path, node, wrong, about);
            }
        }
    }

    fn refuse(&mut self, path: &str, node: &SpannedValue, wrong: ValueError, (allowed, stands_in): (ValueConstraint, bool)) {
        let title = wrong.title.unwrap_or_else(|| match (wrong.code, allowed) {
            ("setting/range", ValueConstraint::Range(..)) => format!("{path} is out of range"),
            (_, ValueConstraint::OneOf(_)) if node.text().is_some() => format!("{path} does not know {}", node.to_toml()),
            _ => format!("{path} cannot be {}", short(node)),
        });
        let span = wrong.span.filter(|span| span.written()).unwrap_or(node.span);
        let mut problem = Problem::error(wrong.code, title).at(span, wrong.note).because(wrong.why.unwrap_or(if stands_in {
            "The default stands in until it is mended."
        } else {
            LEFT_OUT
        }));
        if let Some(text) = wrong.mend {
            // Of what lacks nothing but its quotes these are told.
            let bare = text.trim_matches('"') == self.sources.slice(span);
            let words = if bare { text.clone() } else { text.trim_matches('"').to_owned() };
            problem = problem.mend(span, text, words);
        }
        self.problems.push(problem);
    }
}

/// Takes the innermost part out of a value that stands at some bytes; whether there was one.
fn take_out(node: &mut SpannedValue, span: Span) -> bool {
    let holds = |outer: Span| outer.file == span.file && outer.start <= span.start && span.end <= outer.end;
    match &mut node.value {
        TomlValue::Array(items) => {
            let Some(at) = items.iter().position(|item| holds(item.span)) else { return false };
            if items[at].span == span || !take_out(&mut items[at], span) {
                items.remove(at);
            }
            true
        }
        TomlValue::Table(entries) => {
            let Some(at) = entries.iter().position(|(_, inner)| holds(inner.span) || holds(inner.key)) else { return false };
            let inner = &mut entries[at].1;
            if inner.span == span || holds(inner.key) || !take_out(inner, span) {
                entries.remove(at);
            }
            true
        }
        _ => false,
    }
}

fn short(node: &SpannedValue) -> String {
    let text = node.to_toml();
    if text.chars().count() > 30 { node.kind().to_owned() } else { text }
}
