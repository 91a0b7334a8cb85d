//! What the screen of `tune` knows: settings, trials of them, and what would be written. No terminal.

use std::path::PathBuf;

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::{CheckedRice, Files, OverlayHost, check};
use jovrik_core::rice::{Rice, allowed};
use jovrik_home::edit::{reset, set, toggle};
use jovrik_home::undo::{UndoRange, undo};
use jovrik_home::{
    EditPlan, EntryDraft, FileTexts, LocalHost, RiceCopy, TransactionManager, UserDirs, resolved, rewrites, write_edit,
};
use jovrik_schema::Tree;
use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, SettingField, SettingShape, ValueType, each, find};
use jovrik_text::Source;
use jovrik_text::problem::{Severity, count};
use jovrik_toml::{SpannedValue, path_of, steps};

use super::editor::Editor;

/// One setting that the screen shows.
#[derive(Debug, Clone)]
pub struct Item {
    /// Its path.
    pub path: String,
    /// The steps of its path.
    pub steps: Vec<String>,
    /// Its type.
    pub kind: &'static ValueType,
    /// The field of the catalogue; a value that a person named, such as a binding, has none.
    pub field: Option<&'static SettingField>,
}

impl Item {
    /// The part of the desktop.
    pub fn part(&self) -> &str {
        self.steps.first().map_or("", String::as_str)
    }

    /// One line of help.
    pub fn help(&self) -> &'static str {
        self.field.map_or("", |field| field.help.trim())
    }

    /// Its default as TOML.
    pub fn default(&self) -> Option<&'static str> {
        self.field.and_then(|field| field.default)
    }

    /// When a change is in effect.
    pub fn takes(&self) -> ReloadPolicy {
        self.field.map_or(ReloadPolicy::Immediate, |field| field.takes)
    }

    /// What it may be.
    pub fn allowed(&self) -> String {
        allowed(self.kind)
    }

    fn holds(&self, words: &[String]) -> bool {
        let text = format!("{} {} {}", self.path, self.help(), self.allowed()).to_lowercase();
        words.iter().all(|word| {
            let slip = |own: &str| jovrik_text::problem::is_slip(word, own);
            text.contains(word.as_str()) || text.split(|c: char| !c.is_alphanumeric()).any(slip)
        })
    }
}

/// A line of a file that a change touches.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChangedLine {
    /// The file and its line, from 1.
    pub place: String,
    /// What stood there; nothing where lines come.
    pub old: Option<String>,
    /// What will stand there; nothing where lines go.
    pub new: Option<String>,
}

/// What is said in the line above the keys.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Note {
    /// Something was done.
    Done(String),
    /// Something cannot be done.
    Refused(String),
}

/// What the person is doing.
#[derive(Debug)]
pub enum TuneMode {
    /// Choosing a setting.
    Browsing,
    /// Typing words to search for.
    Searching,
    /// Giving a setting another value.
    Editing(Box<Editor>),
    /// Reading what the keys do.
    Reading,
}

/// The state of the screen.
pub struct Model {
    folder: PathBuf,
    copy: RiceCopy,
    home: UserDirs,
    around: LocalHost,
    /// The files as they are on the disk.
    base: Files,
    /// The rice as it is on the disk.
    saved: CheckedRice,
    /// The rice with the trials.
    pub checked: CheckedRice,
    texts: FileTexts,
    undo: Vec<FileTexts>,
    /// Entries of the history that this screen made.
    written: usize,
    /// All settings.
    pub items: Vec<Item>,
    /// The parts that have settings.
    pub parts: Vec<&'static str>,
    /// The part that is shown.
    pub part: usize,
    /// Which of the shown settings is chosen.
    pub row: usize,
    /// Words that the shown settings hold; empty shows a part.
    pub search: String,
    /// What the person is doing.
    pub doing: TuneMode,
    /// Whether each change is written at once, so that a running desktop follows.
    pub follow: bool,
    /// What is said.
    pub note: Option<Note>,
    /// Asked once whether to leave unwritten changes.
    pub leaving: bool,
}

impl std::fmt::Debug for Model {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Model").field("folder", &self.folder).field("row", &self.row).finish_non_exhaustive()
    }
}

/// Everything that can be set: fields of the catalogue, below the names that the rice has given, and what it named itself.
fn items(checked: &CheckedRice) -> Vec<Item> {
    let mut items: Vec<Item> = Vec::new();
    each(Rice::CATALOGUE, &mut |path, field| {
        let SettingShape::One(kind) = field.shape else { return };
        let mut add = |steps: Vec<String>| items.push(Item { path: path_of(&steps), steps, kind, field: Some(field) });
        if path.contains("NAME") {
            checked.tree.along(path).into_iter().for_each(add);
        } else {
            add(steps(path));
        }
    });
    fn named(tree: &Tree, path: &mut Vec<String>, items: &mut Vec<Item>) {
        match tree {
            Tree::Branch(branch) => {
                for (name, tree) in &branch.entries {
                    path.push(name.clone());
                    named(tree, path, items);
                    path.pop();
                }
            }
            Tree::Leaf(_) => {
                if let Ok(CatalogueMatch::Named(SettingShape::One(kind))) = find(Rice::CATALOGUE, path) {
                    items.push(Item { path: path_of(path), steps: path.clone(), kind, field: None });
                }
            }
        }
    }
    for (name, tree) in &checked.tree.entries {
        named(tree, &mut vec![name.clone()], &mut items);
    }
    let parts: Vec<&str> = Rice::CATALOGUE.fields.iter().map(|field| field.name).collect();
    // Part by part, and table by table in the order of the rice.
    let table = |item: &Item| item.steps[..item.steps.len().saturating_sub(1)].to_vec();
    let mut tables: Vec<Vec<String>> = Vec::new();
    for item in &items {
        if !tables.contains(&table(item)) {
            tables.push(table(item));
        }
    }
    let part = |item: &Item| parts.iter().position(|part| *part == item.part());
    items.sort_by_cached_key(|item| (part(item), tables.iter().position(|own| *own == table(item))));
    items
}

impl Model {
    /// The rice of a folder.
    pub fn new(folder: PathBuf, copy: RiceCopy, home: UserDirs, around: LocalHost) -> Model {
        let base = jovrik_home::read_folder(&folder);
        let read = || check(base.clone(), &[], &OverlayHost { around: &around, elsewhere: true });
        let (saved, checked) = (read(), read());
        let items = items(&checked);
        let mut parts: Vec<&'static str> = Rice::CATALOGUE.fields.iter().map(|field| field.name).collect();
        parts.retain(|part| items.iter().any(|item| item.part() == *part));
        let note = (checked.errors() > 0)
            .then(|| Note::Refused(format!("the rice has {}; jovrik check says them", count(checked.errors(), "error"))));
        Model {
            folder,
            copy,
            home,
            around,
            base,
            saved,
            checked,
            texts: FileTexts::new(),
            undo: Vec::new(),
            written: 0,
            items,
            parts,
            part: 0,
            row: 0,
            search: String::new(),
            doing: TuneMode::Browsing,
            follow: false,
            note,
            leaving: false,
        }
    }

    /// The settings that are shown: those of a part, or those that hold the words searched for.
    pub fn shown(&self) -> Vec<&Item> {
        let words: Vec<String> = self.search.to_lowercase().split_whitespace().map(str::to_owned).collect();
        let part = self.parts.get(self.part).copied().unwrap_or_default();
        let fits = |item: &&Item| if words.is_empty() { item.part() == part } else { item.holds(&words) };
        self.items.iter().filter(fits).collect()
    }

    /// The setting that is chosen.
    pub fn chosen(&self) -> Option<&Item> {
        self.shown().get(self.row).copied()
    }

    /// Whether windows would hide what is being looked at.
    pub fn is_below_windows(&self) -> bool {
        let looked = match &self.doing {
            TuneMode::Editing(editor) => Some(editor.item.part()),
            _ => self.chosen().map(Item::part),
        };
        looked == Some("widget")
    }

    /// The value of a setting as it is written, if the rice sets it.
    pub fn written(&self, item: &Item) -> Option<&SpannedValue> {
        self.checked.tree.get(&item.steps).and_then(Tree::leaf).map(|leaf| &leaf.node)
    }

    /// The value of a setting as TOML: of the rice, else the default.
    pub fn value(&self, item: &Item) -> String {
        self.written(item).map(SpannedValue::to_toml).or_else(|| item.default().map(str::to_owned)).unwrap_or_default()
    }

    /// Where the value of a setting comes from.
    pub fn place(&self, item: &Item) -> String {
        self.written(item).map_or_else(|| "default".to_owned(), |node| self.checked.sources.place(node.span))
    }

    /// Whether a setting differs from what is on the disk.
    pub fn tried(&self, item: &Item) -> bool {
        let saved = self.saved.tree.get(&item.steps).and_then(Tree::leaf);
        match (saved, self.written(item)) {
            (Some(saved), Some(node)) => !saved.node.same(node),
            (None, None) => false,
            _ => true,
        }
    }

    /// How many settings differ from what is on the disk.
    pub fn changed(&self) -> usize {
        changes(&self.saved.tree, &self.checked.tree).len()
    }

    /// The rice that is to be seen: with the value that is being tried, as far as it can be used.
    pub fn seen(&self) -> &CheckedRice {
        match &self.doing {
            TuneMode::Editing(editor) => editor.plan.as_ref().map_or(&self.checked, |planned| &planned.after),
            _ => &self.checked,
        }
    }

    /// The computer, asked only what matters to a trial.
    fn glance(&self) -> OverlayHost<'_> {
        OverlayHost { around: &self.around, elsewhere: true }
    }

    fn files(&self) -> Files {
        with_texts(&self.base, &self.texts)
    }

    /// Plans a value for a setting.
    pub fn plan(&self, item: &Item, value: &str) -> Result<EditPlan, jovrik_home::Error> {
        set(|| self.files(), &item.path, value, None, &self.glance())
    }

    /// The lines that a plan would change.
    pub fn touched(&self, planned: &EditPlan) -> Vec<ChangedLine> {
        let before = |name: &str| {
            let file = self.checked.sources.named(name).and_then(|id| self.checked.sources.get(id));
            file.map_or(String::new(), |file| file.text.clone())
        };
        planned.files.iter().flat_map(|(name, text)| difference(name, &before(name), text)).collect()
    }

    /// Begins to edit the chosen setting.
    pub fn edit(&mut self) {
        let Some(item) = self.chosen().cloned() else { return };
        let editor = Editor::new(item, self);
        self.note = None;
        self.doing = TuneMode::Editing(Box::new(editor));
    }

    /// Takes a plan on: the trial before it can be had back.
    pub fn accept(&mut self, planned: EditPlan) {
        self.undo.push(self.texts.clone());
        self.texts.extend(planned.files);
        self.checked = planned.after;
        self.renew();
        self.note = None;
        if self.follow {
            self.save();
        }
    }

    fn renew(&mut self) {
        let path = self.chosen().map(|item| item.path.clone());
        self.items = items(&self.checked);
        let row = self.shown().iter().position(|item| Some(&item.path) == path.as_ref());
        self.row = row.unwrap_or(self.row).min(self.shown().len().saturating_sub(1));
    }

    fn act(&mut self, planned: Result<EditPlan, jovrik_home::Error>) {
        match planned {
            Ok(planned) => self.accept(planned),
            Err(error) => self.note = Some(Note::Refused(in_words(&error))),
        }
    }

    /// Takes the chosen setting out, so that its default holds.
    pub fn reset(&mut self) {
        let Some(item) = self.chosen() else { return };
        let planned = reset(|| self.files(), &item.path, &self.glance());
        self.act(planned);
    }

    /// Turns the chosen setting, or comments it out or in.
    pub fn toggle(&mut self) {
        let Some(item) = self.chosen() else { return };
        let planned = toggle(|| self.files(), &item.path, None, &self.glance());
        self.act(planned);
    }

    /// Takes the last change back, also one that was written.
    pub fn undo(&mut self) {
        if let Some(texts) = self.undo.pop() {
            self.texts = texts;
            self.checked = check(self.files(), &[], &self.glance());
            self.renew();
            self.note = Some(Note::Done("taken back".to_owned()));
            return;
        }
        if self.written == 0 {
            self.note = Some(Note::Refused("nothing to take back".to_owned()));
            return;
        }
        let undone = resolved(&self.folder).and_then(|rice| undo(&self.home, Some(&rice), UndoRange::Steps(1)));
        match undone {
            Ok(_) => {
                self.written -= 1;
                self.read_again();
                self.note = Some(Note::Done("taken back, also on the disk".to_owned()));
            }
            Err(error) => self.note = Some(Note::Refused(error.to_string())),
        }
    }

    fn read_again(&mut self) {
        self.base = jovrik_home::read_folder(&self.folder);
        self.texts.clear();
        self.undo.clear();
        self.saved = check(self.base.clone(), &[], &self.glance());
        self.checked = check(self.base.clone(), &[], &self.glance());
        self.renew();
    }

    /// Writes all changes, unless a file was changed by somebody else meanwhile.
    pub fn save(&mut self) {
        let change = changes(&self.saved.tree, &self.checked.tree);
        let old = |name: &str| self.saved.sources.named(name).and_then(|id| self.saved.sources.get(id)).map(|file| &file.text);
        let differs = |(name, text): &(&String, &String)| old(name) != Some(*text);
        let writes: Vec<(&String, &String)> = self.texts.iter().filter(differs).collect();
        if writes.is_empty() {
            self.note = Some(Note::Done("nothing to write".to_owned()));
            return;
        }
        let texts: FileTexts = writes.into_iter().map(|(name, text)| (name.clone(), text.clone())).collect();
        let files = count(texts.len(), "file");
        match self.write(&texts, &in_short(&change)) {
            Ok(_) => {
                self.written += 1;
                self.read_again();
                self.note = Some(Note::Done(format!("wrote {files}; u takes it back")));
            }
            Err(jovrik_home::Error::ByHand(paths)) => {
                let names: Vec<String> =
                    paths.iter().map(|path| path.strip_prefix(&self.folder).unwrap_or(path).display().to_string()).collect();
                let said = format!("{} changed by somebody else meanwhile; nothing was written", was(&names));
                self.note = Some(Note::Refused(said));
            }
            Err(error) => self.note = Some(Note::Refused(error.to_string())),
        }
    }

    fn write(&self, texts: &FileTexts, what: &str) -> Result<Option<i64>, jovrik_home::Error> {
        let mut writer = TransactionManager::open(&self.home)?;
        let rice = resolved(&self.folder)?;
        let about = EntryDraft { kind: "tune", what, note: None, rice: Some(&rice) };
        let changes = rewrites(&self.folder, &self.saved.sources, texts)?;
        Ok(write_edit(&mut writer, &self.home, &about, &self.copy, changes, (texts, &self.checked))?.entry)
    }
}

/// Some names, and whether one or several were.
fn was(names: &[String]) -> String {
    format!("{} {}", jovrik_text::problem::in_words(names), if names.len() == 1 { "was" } else { "were" })
}

/// The files with some texts in place of theirs.
fn with_texts(base: &Files, texts: &FileTexts) -> Files {
    let mut files = base.clone();
    let mut new = texts.clone();
    for source in files.sources_mut() {
        if let Some(text) = new.remove(&source.name) {
            *source = Source::new(source.name.clone(), text);
        }
    }
    for (name, text) in new {
        files.add(Source::new(name, text));
    }
    files
}

/// An error as one line: of a refused rice its first problem.
/// Why something was not written, in a line.
pub fn in_words(error: &jovrik_home::Error) -> String {
    match error {
        jovrik_home::Error::Refused(checked) => {
            let first = checked.problems.iter().find(|problem| problem.severity == Severity::Error);
            first.map_or_else(
                || error.to_string(),
                |problem| {
                    let note = problem.marks.first().map(|mark| mark.note.as_str()).unwrap_or_default();
                    if note.is_empty() { problem.title.clone() } else { format!("{}: {note}", problem.title) }
                },
            )
        }
        _ => error.to_string(),
    }
}

/// The lines in which two texts differ.
fn difference(name: &str, old: &str, new: &str) -> Vec<ChangedLine> {
    let (old, new): (Vec<&str>, Vec<&str>) = (old.lines().collect(), new.lines().collect());
    let same = old.iter().zip(&new).take_while(|(a, b)| a == b).count();
    let rest = old.len().min(new.len()) - same;
    let tail = old.iter().rev().zip(new.iter().rev()).take(rest).take_while(|(a, b)| a == b).count();
    let (gone, come) = (&old[same..old.len() - tail], &new[same..new.len() - tail]);
    let line = |at: usize| ChangedLine {
        place: format!("{name}:{}", same + at + 1),
        old: gone.get(at).map(|line| (*line).to_owned()),
        new: come.get(at).map(|line| (*line).to_owned()),
    };
    (0..gone.len().max(come.len()))
        .map(line)
        .filter(|touched| touched.old.is_some() || touched.new.as_deref() != Some(""))
        .collect()
}
