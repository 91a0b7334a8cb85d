//! The copies of a rice: the one that was applied, and the one that it came from.
//!
//! An edit of the applied one goes to where it came from, and is applied in the same step. Where that is gone, or where the
//! applied one was changed by hand since, the applied one is edited alone, and `apply` keeps that as a person's change.

use std::path::{Path, PathBuf};

use jovrik_core::check::CheckedRice;

use crate::apply::{ApplyConsent, ApplyPlan, plan};
use crate::edit_plan::FileTexts;
use crate::file::{kept, resolved};
use crate::history::{EntryDraft, FileChange, History};
use crate::transaction::TransactionManager;
use crate::{Error, UserDirs};

/// The copy that an edit goes to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum RiceCopy {
    /// A rice that nothing was applied from.
    Own,
    /// One that was applied from; it is edited where it stands, and applied when that is asked for.
    Source,
    /// Where the applied rice came from: what is changed is applied at once.
    SourceOfApplied(PathBuf),
    /// The applied rice alone: it came from there, which is gone.
    Orphan(PathBuf),
    /// The applied rice alone: a file of it was changed by hand since it came from there.
    Diverged {
        /// Where it came from.
        source: PathBuf,
        /// The first file that is not as it was applied.
        file: PathBuf,
    },
}

impl RiceCopy {
    /// The copy that is edited by whoever means the rice in a folder.
    pub fn of(folder: &Path, home: &UserDirs, history: Option<&History>) -> Result<RiceCopy, Error> {
        let Some(history) = history else { return Ok(RiceCopy::Own) };
        let (folder, applied) = (resolved(folder)?, resolved(&home.rice())?);
        let Some(source) = history.applied_from(&applied)? else { return Ok(RiceCopy::Own) };
        if folder != applied {
            return Ok(if folder == source { RiceCopy::Source } else { RiceCopy::Own });
        }
        if !source.join("rice.toml").is_file() {
            return Ok(RiceCopy::Orphan(source));
        }
        for file in history.placed()?.into_iter().filter(|path| path.starts_with(&applied)) {
            let now = kept(&file)?.map(|kept| *blake3::hash(&kept.bytes).as_bytes());
            if history.last_placed(&file)?.is_some_and(|left| left != now) {
                return Ok(RiceCopy::Diverged { source, file });
            }
        }
        Ok(RiceCopy::SourceOfApplied(source))
    }

    /// The folder that is edited.
    pub fn folder<'a>(&'a self, asked: &'a Path) -> &'a Path {
        match self {
            RiceCopy::SourceOfApplied(source) => source,
            _ => asked,
        }
    }
}

/// What changed where the applied rice came from and is not applied yet: the files of the home that an apply would write.
pub fn not_applied(
    source: &Path,
    checked: &CheckedRice,
    home: &UserDirs,
    history: Option<&History>,
) -> Result<Vec<FileChange>, Error> {
    Ok(plan(source, &FileTexts::new(), checked, home, history, &ApplyConsent::default())?.writes())
}

/// How an edit was written.
#[derive(Debug, Default)]
pub struct Written {
    /// The number of its entry.
    pub entry: Option<i64>,
    /// What became of it in the home, where it was applied.
    pub applied: Option<ApplyPlan>,
}

/// Writes an edit of a rice: `changes` in the folder, `texts` by their names there, and what comes of them. Where the edited copy
/// is the one that the applied rice came from, and is fit to be used, the same entry applies it.
pub fn write_edit(
    writer: &mut TransactionManager,
    home: &UserDirs,
    about: &EntryDraft<'_>,
    copy: &RiceCopy,
    changes: Vec<FileChange>,
    (texts, after): (&FileTexts, &CheckedRice),
) -> Result<Written, Error> {
    let changes: Vec<FileChange> = changes.into_iter().filter(|change| change.old != change.new).collect();
    let source = match copy {
        RiceCopy::SourceOfApplied(source) if after.usable() => source,
        _ => return Ok(Written { entry: writer.write(about, changes)?, applied: None }),
    };
    let applied = plan(source, texts, after, home, writer.history(), &ApplyConsent::default())?;
    let placed = applied.writes().into_iter().filter(|file| changes.iter().all(|change| change.path != file.path));
    let all = changes.iter().cloned().chain(placed).collect();
    let entry = writer.write_and_leave(about, all, applied.leaving())?;
    Ok(Written { entry, applied: Some(applied) })
}
