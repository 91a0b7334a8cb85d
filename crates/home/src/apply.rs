//! Apply a rice to a home folder: what would become of each file, and the transaction that does it.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use jovrik_core::check::CheckedRice;
use jovrik_core::template;
use jovrik_file::{Folder, ReadError, read_open};
use jovrik_text::limits;
use rustix::fs::FileType;

use crate::block::{has_block, start_files, with, without};
use crate::disk::facts_of;
use crate::edit_plan::FileTexts;
use crate::file::{FileSnapshot, kept, resolved};
use crate::history::{EntryDraft, FileChange, History};
use crate::target::{Carried, TargetError, source, target};
use crate::transaction::TransactionManager;
use crate::{Error, UserDirs};

/// What becomes of one file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum FileDisposition {
    /// It was not there.
    New,
    /// It held something else.
    Changed,
    /// It is taken away: the rice no longer has it.
    Removed,
    /// The rice no longer has it: what stood there before comes back.
    Restored,
    /// A person changed it since the last apply; it stays as it is.
    ByHand,
    /// It was there before, and no apply has written it; it stays as it is.
    Theirs,
    /// It holds this already.
    Same,
}

impl FileDisposition {
    /// Whether it stays although the rice wants something else.
    pub fn is_kept(self) -> bool {
        matches!(self, FileDisposition::ByHand | FileDisposition::Theirs)
    }
}

/// One file of a plan.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlannedFile {
    /// Where it goes, links followed.
    pub path: PathBuf,
    /// What becomes of it.
    pub fate: FileDisposition,
    /// What stands there now.
    pub old: Option<FileSnapshot>,
    /// What is to stand there; nothing to take it away.
    pub new: Option<FileSnapshot>,
    /// Whether it is a file of somebody else, in which a block of ours stands.
    pub block: bool,
}

/// What an apply would do.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ApplyPlan {
    /// The files, by path.
    pub files: Vec<PlannedFile>,
    /// What was to be taken and is kept by nobody.
    pub not_kept: Vec<PathBuf>,
    /// Files outside the home folder that nobody allowed to be written: they stay as they are.
    pub outside: Vec<PathBuf>,
    /// Folders that go when they are empty.
    leaving: Vec<PathBuf>,
}

impl ApplyPlan {
    /// The files of one fate.
    pub fn of(&self, fate: FileDisposition) -> impl Iterator<Item = &PlannedFile> {
        self.files.iter().filter(move |file| file.fate == fate)
    }

    /// Whether something stays although the rice wants something else.
    pub fn keeps(&self) -> bool {
        !self.outside.is_empty() || self.files.iter().any(|file| file.fate.is_kept())
    }

    /// The folders that go when they are empty.
    pub(crate) fn leaving(&self) -> &[PathBuf] {
        &self.leaving
    }

    /// The files that are written or taken away.
    pub fn writes(&self) -> Vec<FileChange> {
        let written = self.files.iter().filter(|file| !file.fate.is_kept() && file.fate != FileDisposition::Same);
        let change = |file: &PlannedFile| {
            let placed = (!file.block).then_some(matches!(file.fate, FileDisposition::New | FileDisposition::Changed));
            FileChange { path: file.path.clone(), old: file.old.clone(), new: file.new.clone(), placed }
        };
        written.map(change).collect()
    }
}

/// What a person allows an apply to do.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ApplyConsent {
    /// Files, or folders with all in them, that may be written over though a person wrote them.
    pub take: Vec<PathBuf>,
    /// All of them may.
    pub take_all: bool,
    /// Files outside the home folder that may be written.
    pub outside: Vec<PathBuf>,
}

impl ApplyConsent {
    fn takes(&self, path: &Path) -> bool {
        self.take_all || self.take.iter().any(|taken| path.starts_with(taken))
    }
}

/// The most that a rice's folder may hold.
const MAX_RICE_FILES: usize = limits::RICE_FILES;
const MAX_RICE_BYTES: u64 = limits::RICE_BYTES as u64;

/// Whether a file beside `rice.toml` belongs to the rice: settings and words do, a picture or bundle that was made there
/// does not.
fn travels(name: &str) -> bool {
    matches!(Path::new(name).extension().and_then(|end| end.to_str()), None | Some("toml" | "md" | "txt"))
}

/// The files of a rice's folder that travel with it, by their paths inside. Hidden ones, links and what is no regular file
/// stay, and what was made beside `rice.toml`. Each folder is held open, and what is read is what was looked at, whoever swaps
/// names meanwhile.
pub fn rice_files(folder: &Path) -> Result<BTreeMap<String, Carried>, Error> {
    let mut files = BTreeMap::new();
    let mut total = 0;
    let at = |name: &str, why: &ReadError| match name {
        "" => Error::unread(folder, why),
        name => Error::unread(&folder.join(name), why),
    };
    let mut open = vec![(Folder::open(folder).map_err(|why| at("", &why))?, String::new())];
    while let Some((here, name)) = open.pop() {
        for (own, kind) in here.entries().map_err(|why| at(&name, &why))? {
            let Ok(own) = own.into_string() else { continue };
            let made_here = name.is_empty() && kind == FileType::RegularFile && !travels(&own);
            if own.starts_with('.') || own.ends_with('~') || made_here {
                continue;
            }
            let full = if name.is_empty() { own.clone() } else { format!("{name}/{own}") };
            match kind {
                FileType::Directory => match here.folder(own.as_ref()) {
                    Ok(inner) => open.push((inner, full)),
                    // It has become something else since it was listed.
                    Err(ReadError::Refused(_)) => {}
                    Err(why) => return Err(at(&full, &why)),
                },
                FileType::RegularFile => {
                    let read = here.own_file(own.as_ref(), MAX_RICE_BYTES).and_then(|(file, metadata)| {
                        Ok(Carried { mode: facts_of(&metadata).mode, bytes: read_open(file, &metadata, MAX_RICE_BYTES)? })
                    });
                    let file = match read {
                        Ok(file) => file,
                        Err(ReadError::Other(_) | ReadError::Missing) => continue,
                        Err(why) => return Err(at(&full, &why)),
                    };
                    total += file.bytes.len() as u64;
                    if total > MAX_RICE_BYTES || files.len() >= MAX_RICE_FILES {
                        let why = format!("the rice is too large: more than {MAX_RICE_FILES} files or 64 MiB");
                        return Err(Error::Place(why));
                    }
                    files.insert(full, file);
                }
                _ => {}
            }
        }
    }
    Ok(files)
}

/// What a rice wants to stand where.
fn wanted(
    folder: &Path,
    texts: &FileTexts,
    checked: &CheckedRice,
    home: &UserDirs,
    outside: &[PathBuf],
    left: &mut Vec<PathBuf>,
) -> Result<BTreeMap<PathBuf, FileSnapshot>, Error> {
    let mut wanted = BTreeMap::new();
    let applied = resolved(&home.rice())?;
    if resolved(folder)? != applied {
        let mut files = rice_files(folder)?;
        for (name, text) in texts {
            let mode = files.get(name).map_or(0o666, |file| file.mode);
            files.insert(name.clone(), Carried { mode, bytes: text.clone().into_bytes() });
        }
        for (name, file) in files {
            let path = resolved(&applied.join(&name))?;
            if !path.starts_with(&applied) {
                let why = "a link in it leads out of the applied rice".to_owned();
                return Err(Error::File { path: applied.join(name), why });
            }
            let kept = file.placed(&path, file.bytes.clone());
            wanted.insert(path, kept);
        }
    }
    for (to, file) in checked.rice.place.0.iter() {
        let path = match target(home, to, outside) {
            Ok(path) => path,
            Err(TargetError::Outside(path)) => {
                left.push(path);
                continue;
            }
            Err(TargetError::Unfit(why)) => return Err(Error::Place(format!("{to} is no place for a file of a rice: {why}"))),
        };
        let refused = |why: String| Error::Place(format!("{}, for {to}: {why}", file.from));
        let source = source(folder, &file.from).map_err(|why| refused(why.to_string()))?;
        let bytes = match String::from_utf8(source.bytes.clone()) {
            Ok(text) if file.fill => template::fill(&text, &checked.tree, &checked.rice)
                .map_err(|wrong| refused(wrong.first().map(ToString::to_string).unwrap_or_default()))?
                .into_bytes(),
            Ok(text) => text.into_bytes(),
            Err(_) if file.fill => return Err(refused("it is not UTF-8, so it cannot be filled".to_owned())),
            Err(error) => error.into_bytes(),
        };
        let kept = source.placed(&path, bytes);
        if wanted.insert(path, kept).is_some() {
            return Err(Error::Place(format!("{to} is the same file as another one that the rice places")));
        }
    }
    Ok(wanted)
}

/// Plans an apply of the rice in a folder, with the new texts that some of its files are about to get.
pub fn plan(
    folder: &Path,
    texts: &FileTexts,
    checked: &CheckedRice,
    home: &UserDirs,
    history: Option<&History>,
    leave: &ApplyConsent,
) -> Result<ApplyPlan, Error> {
    let take = leave.take.iter().map(|path| resolved(path)).collect::<Result<_, _>>()?;
    let leave = ApplyConsent { take, ..leave.clone() };
    let mut plan = ApplyPlan::default();
    let wanted = wanted(folder, texts, checked, home, &leave.outside, &mut plan.outside)?;
    let placed: BTreeSet<PathBuf> = history.map_or(Ok(Vec::new()), History::placed)?.into_iter().collect();
    let mut taken: BTreeSet<PathBuf> = BTreeSet::new();
    let applied = resolved(&home.rice())?;
    // Whose it is that stands there, if that must not be written over.
    let mut keeper = |path: &Path, old: &Option<FileSnapshot>| -> Result<Option<FileDisposition>, Error> {
        let left = history.map_or(Ok(None), |history| history.last_placed(path))?;
        let now = old.as_ref().map(|kept| *blake3::hash(&kept.bytes).as_bytes());
        let fate = match (placed.contains(path), old, left) {
            (true, _, Some(left)) if left != now => FileDisposition::ByHand,
            (false, Some(_), _) => FileDisposition::Theirs,
            _ => return Ok(None),
        };
        if leave.takes(path) {
            taken.insert(path.to_owned());
            return Ok(None);
        }
        Ok(Some(fate))
    };
    for (path, new) in &wanted {
        let old = kept(path)?;
        let fate = match &old {
            Some(old) if old.bytes == new.bytes => FileDisposition::Same,
            _ => match (keeper(path, &old)?, &old) {
                (Some(fate), _) => fate,
                (None, Some(_)) => FileDisposition::Changed,
                (None, None) => FileDisposition::New,
            },
        };
        plan.files.push(PlannedFile { path: path.clone(), fate, old, new: Some(new.clone()), block: false });
    }
    let in_rice = resolved(folder)? == applied;
    let stays = |path: &PathBuf| plan.outside.contains(path) || (in_rice && path.starts_with(&applied));
    let gone: Vec<PathBuf> = placed.iter().filter(|path| !wanted.contains_key(*path) && !stays(path)).cloned().collect();
    for path in &gone {
        let old = kept(path)?;
        let new = history.map_or(Ok(None), |history| history.original(path))?;
        if old == new {
            continue;
        }
        // What the last apply left and the rice no longer has.
        let fate = match keeper(path, &old)? {
            Some(fate) => fate,
            None if new.is_some() => FileDisposition::Restored,
            None => FileDisposition::Removed,
        };
        if fate == FileDisposition::Removed {
            plan.leaving.extend(history.map_or(Ok(Vec::new()), |history| history.folders_above(path))?);
        }
        plan.files.push(PlannedFile { path: path.clone(), fate, old, new, block: false });
    }
    blocks(checked, home, &mut plan)?;
    plan.leaving.sort();
    plan.leaving.dedup();
    plan.files.sort_by(|a, b| a.path.cmp(&b.path));
    plan.not_kept = leave.take.into_iter().filter(|path| !taken.iter().any(|taken| taken.starts_with(path))).collect();
    let own = plan.of(FileDisposition::Theirs).find(|file| file.path.starts_with(&applied));
    if let Some(file) = own {
        return Err(Error::OwnRice { folder: home.rice(), file: file.path.clone() });
    }
    Ok(plan)
}

/// The blocks in the start files of shells: those that are wanted, and those that are no longer.
fn blocks(checked: &CheckedRice, home: &UserDirs, plan: &mut ApplyPlan) -> Result<(), Error> {
    for (shell, path, wanted) in start_files(home, &checked.rice) {
        let path = resolved(&path)?;
        // What a rice places whole is the rice's own.
        if plan.files.iter().any(|file| file.path == path) {
            continue;
        }
        let old = if wanted { kept(&path)? } else { kept(&path).ok().flatten() };
        let Ok(text) = old.as_ref().map_or(Ok(""), |old| std::str::from_utf8(&old.bytes)) else {
            if wanted {
                return Err(Error::File { path, why: "it is not UTF-8, so no block can be put into it".to_owned() });
            }
            continue;
        };
        if !wanted && !has_block(text) {
            continue;
        }
        let text = if wanted { with(text, shell) } else { without(text) };
        let facts = old.as_ref().and_then(|old| old.facts);
        let new = (!text.is_empty()).then(|| FileSnapshot { bytes: text.into_bytes(), facts });
        let fate = match (&old, &new) {
            (Some(old), Some(new)) if old.bytes == new.bytes => FileDisposition::Same,
            (Some(_), Some(_)) => FileDisposition::Changed,
            (None, Some(_)) => FileDisposition::New,
            (_, None) => FileDisposition::Removed,
        };
        plan.files.push(PlannedFile { path, fate, old, new, block: true });
    }
    Ok(())
}

/// Carries a plan out; the number of its entry, or nothing when there was nothing to do.
pub fn carry_out(plan: &ApplyPlan, writer: &mut TransactionManager, about: &EntryDraft<'_>) -> Result<Option<i64>, Error> {
    writer.write_and_leave(about, plan.writes(), &plan.leaving)
}
