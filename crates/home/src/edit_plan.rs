//! Edits of a rice that were judged and can be written.

use std::collections::{BTreeMap, HashMap};
use std::path::Path;
use std::rc::Rc;

use jovrik_core::change::{Change, changes, in_short};
use jovrik_core::check::{CheckedRice, Files, HostInfo, check, manifest_alone, overlay_alone};
use jovrik_core::rice::Rice;
use jovrik_schema::Branch;
use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, find};
use jovrik_text::problem::{Edit, Severity, count};
use jovrik_text::{FileId, Source, Sources};
use jovrik_toml::{apply_edits, steps};

use crate::Error;
use crate::file::{FileSnapshot, resolved};
use crate::history::FileChange;

/// The manifest is the first file of a rice.
pub(crate) const MANIFEST: FileId = FileId(0);

/// The new text of each file, by its path from the rice's folder.
pub type FileTexts = BTreeMap<String, String>;

/// Edits that were judged and can be written.
#[derive(Debug)]
pub struct EditPlan {
    /// The new texts.
    pub files: FileTexts,
    /// The rice before.
    pub before: Rc<CheckedRice>,
    /// The rice after.
    pub after: CheckedRice,
}

impl EditPlan {
    /// The files to write: each as it was read, and as it is to be.
    pub fn writes(&self, folder: &Path) -> Result<Vec<FileChange>, Error> {
        rewrites(folder, &self.before.sources, &self.files)
    }

    /// The rice after, as it is on another computer.
    pub fn on(&self, around: &dyn HostInfo) -> CheckedRice {
        check(with_texts(&self.before, &self.files), &[], around)
    }

    /// What it changes, in a few words.
    pub fn what(&self) -> String {
        let here = changes(&self.before.tree, &self.after.tree);
        let mut words: Vec<String> = if here.is_empty() { Vec::new() } else { vec![in_short(&here)] };
        words.extend(self.beside().map(|(name, changed)| format!("{name}: {}", in_short(&changed))));
        if words.is_empty() {
            words.extend(self.files.keys().map(|name| format!("{name}: {}", count(self.lines(name), "line"))));
        }
        words.join(", ")
    }

    /// The same, setting by setting.
    pub fn told(&self) -> Vec<String> {
        let mut told: Vec<String> = changes(&self.before.tree, &self.after.tree).iter().map(ToString::to_string).collect();
        for (name, changed) in self.beside() {
            told.extend(changed.iter().map(|change| format!("{name}: {change}")));
        }
        if told.is_empty() { vec![self.what()] } else { told }
    }

    /// The settings among what is changed that nothing acts on yet.
    pub fn idle(&self) -> Vec<String> {
        let idle = |path: &str| match find(Rice::CATALOGUE, &steps(path)) {
            Ok(CatalogueMatch::Field(field)) => field.takes == ReloadPolicy::Unimplemented,
            _ => false,
        };
        let here = changes(&self.before.tree, &self.after.tree).into_iter().map(|change| change.path);
        here.filter(|path| idle(path)).collect()
    }

    /// What is changed in files of which nothing holds here: overlays for other computers, and the manifest.
    fn beside(&self) -> impl Iterator<Item = (String, Vec<Change>)> {
        let alone = |checked: &CheckedRice, name: &str| match checked.sources.named(name) {
            Some(MANIFEST) => manifest_alone(&checked.sources, MANIFEST),
            Some(file) if checked.overlays.iter().any(|overlay| overlay.file == file && !overlay.verdict.holds) => {
                overlay_alone(&checked.sources, file, checked.lead().word())
            }
            _ => Branch::default(),
        };
        let changed = move |name: &String| (name.clone(), changes(&alone(&self.before, name), &alone(&self.after, name)));
        self.files.keys().map(changed).filter(|(_, changed)| !changed.is_empty())
    }

    /// How many lines of a file it changes.
    fn lines(&self, name: &str) -> usize {
        let text = |checked: &CheckedRice| {
            let file = checked.sources.named(name).and_then(|file| checked.sources.get(file));
            file.map(|source| source.text.clone()).unwrap_or_default()
        };
        differing_lines(&text(&self.before), &text(&self.after))
    }
}

/// The files of a rice with new texts: what each was when it was read, and what it is to be.
pub fn rewrites(folder: &Path, sources: &Sources, texts: &FileTexts) -> Result<Vec<FileChange>, Error> {
    let one = |(name, text): (&String, &String)| {
        let old = sources.named(name).and_then(|file| sources.get(file)).map(|source| FileSnapshot::new(source.text.clone()));
        // A manifest that is not there is read as an empty one.
        let old = old.filter(|_| name != "rice.toml" || folder.join(name).exists());
        Ok(FileChange { path: resolved(&folder.join(name))?, old, new: Some(FileSnapshot::new(text.clone())), placed: None })
    };
    texts.iter().map(one).collect()
}

/// How many lines two texts differ in: those of the longer side that the other has not.
pub fn differing_lines(old: &str, new: &str) -> usize {
    let mut left: HashMap<&str, usize> = HashMap::new();
    old.lines().for_each(|line| *left.entry(line).or_default() += 1);
    let added = new.lines().filter(|line| left.get_mut(line).filter(|n| **n > 0).map(|n| *n -= 1).is_none()).count();
    added.max(left.values().sum())
}

/// Plans edits of a rice; with the text of the file that those of no file are in.
pub(crate) fn finish(
    before: Rc<CheckedRice>,
    edits: Vec<Edit>,
    new_file: Option<Source>,
    around: &dyn HostInfo,
) -> Result<EditPlan, Error> {
    let texts = rewritten(&before, edits, new_file.as_ref());
    judge(before, texts, around)
}

/// The new texts of the files that edits are in.
pub(crate) fn rewritten(now: &CheckedRice, edits: Vec<Edit>, new_file: Option<&Source>) -> FileTexts {
    let mut by_file: BTreeMap<FileId, Vec<Edit>> = BTreeMap::new();
    for edit in edits {
        by_file.entry(edit.span.file).or_default().push(edit);
    }
    let one = |(file, edits): (FileId, Vec<Edit>)| {
        let source = now.sources.get(file).or(new_file.filter(|_| file == FileId::BUILT_IN))?;
        Some((source.name.clone(), apply_edits(&source.text, &edits)))
    };
    by_file.into_iter().filter_map(one).collect()
}

/// The files of a checked rice with other texts in place of theirs.
pub(crate) fn with_texts(checked: &CheckedRice, texts: &FileTexts) -> Files {
    let mut files = Files::of(checked);
    for source in files.sources_mut() {
        if let Some(text) = texts.get(&source.name) {
            *source = Source::new(source.name.clone(), text.clone());
        }
    }
    for (name, text) in texts.iter().filter(|(name, _)| checked.sources.named(name).is_none()) {
        files.add(Source::new(name.clone(), text.clone()));
    }
    files
}

/// Whether a rice is written in a format that this program does not know.
pub(crate) fn is_newer(checked: &CheckedRice) -> bool {
    checked.problems.iter().any(|problem| problem.code == "file/newer-format")
}

/// Judges what comes of new texts: nothing may be wrong that was not wrong before.
pub(crate) fn judge(before: Rc<CheckedRice>, files: FileTexts, around: &dyn HostInfo) -> Result<EditPlan, Error> {
    if is_newer(&before) {
        return Err(Error::Refused(before));
    }
    let after = check(with_texts(&before, &files), &[], around);
    let mut known: HashMap<(&str, &str), usize> = HashMap::new();
    for problem in &before.problems {
        *known.entry((problem.code, problem.title.as_str())).or_default() += 1;
    }
    // The same twice is one more than once.
    let mut worse = false;
    for problem in after.problems.iter().filter(|problem| problem.severity == Severity::Error) {
        match known.get_mut(&(problem.code, problem.title.as_str())) {
            Some(left @ 1..) => *left -= 1,
            _ => worse = true,
        }
    }
    drop(known);
    if worse { Err(Error::Refused(Rc::new(after))) } else { Ok(EditPlan { files, before, after }) }
}
