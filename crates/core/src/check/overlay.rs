//! Overlays: what they say of themselves, and whether they hold.

use jovrik_schema::catalogue::{find, normal_steps};
use jovrik_schema::{Branch, ConfigLayer, Merger, Tree, read_table};
use jovrik_text::problem::Problem;
use jovrik_text::{FileId, Sources, Span};
use jovrik_toml::{SpannedValue, TomlValue, parse, path_of, steps};

use super::HostInfo;
use crate::rice::{OverlayFile, OverlayHead, Rice, Verdict};

/// An overlay as it was read.
#[derive(Debug)]
pub(super) struct Overlay {
    pub file: FileId,
    /// The path of its file in the rice.
    pub name: String,
    pub head: OverlayHead,
    /// Where its conditions stand.
    pub when: Option<Span>,
    /// Whether its conditions were refused.
    pub unclear: bool,
    /// What it takes away, each with its place.
    pub drop: Vec<(Vec<String>, Span)>,
    /// The settings that it lays on.
    pub table: Vec<(String, SpannedValue)>,
}

/// An overlay, and whether it holds on the computer in question.
#[derive(Debug, Clone)]
pub struct OverlayStatus {
    /// Its file.
    pub file: FileId,
    /// Where its conditions stand.
    pub when: Option<Span>,
    /// Whether it is a person's own.
    pub personal: bool,
    /// Whether that follows the time of the day.
    pub by_hour: bool,
    /// Whether it holds, and why.
    pub verdict: Verdict,
    /// Where it was laid among those that hold, from 0.
    pub layer: Option<u16>,
}

/// Something that an overlay took away.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OverlayRemoval {
    /// Its path.
    pub steps: Vec<String>,
    /// Where the overlay says so.
    pub span: Span,
}

/// Reads an overlay's file.
pub(super) fn read(sources: &Sources, file: FileId, problems: &mut Vec<Problem>) -> Option<Overlay> {
    let (own, table): (Vec<_>, Vec<_>) =
        parse(file, sources.get(file)?, problems).into_iter().partition(|(name, _)| name == "overlay");
    let (OverlayFile { overlay: head }, tree) = read_table::<OverlayFile>(sources, own, problems);
    let node = |name: &str| tree.get(&["overlay", name]).and_then(Tree::leaf).map(|leaf| &leaf.node);
    let when = node("when").map(|node| node.key);
    // What was refused reads as no condition, which would hold everywhere.
    let asks = |node: &SpannedValue| !matches!(&node.value, TomlValue::Table(entries) if entries.is_empty());
    let unclear = head.when.0.is_empty() && node("when").is_some_and(asks);
    let mut drop = Vec::new();
    if let Some(TomlValue::Array(items)) = node("drop").map(|node| &node.value) {
        for (path, item) in items.iter().filter_map(|item| Some((item.text()?, item))) {
            let steps = steps(path);
            match find(Rice::CATALOGUE, &steps) {
                Ok(_) => drop.push((steps, item.span)),
                Err(_) => problems.push(
                    Problem::error("setting/unknown", format!("there is no {path} to take away"))
                        .at(item.span, "no setting or table has this path")
                        .because("Nothing would be dropped.")
                        .advise("jovrik settings", "lists them"),
                ),
            }
        }
    }
    let name = sources.get(file).map(|source| source.name.clone()).unwrap_or_default();
    Some(Overlay { file, name, head, when, unclear, drop, table })
}

impl Overlay {
    /// Whether it holds on a computer, and why.
    pub(super) fn judge(&self, around: &dyn HostInfo) -> Verdict {
        match self.unclear {
            true => Verdict { holds: false, why: "its conditions cannot be read".to_owned() },
            false => self.head.when.judge(around),
        }
    }

    /// Takes away what it drops, then lays its own values.
    pub(super) fn lay(&self, merger: &mut Merger<'_>, layer: ConfigLayer, dropped: &mut Vec<OverlayRemoval>) {
        for (steps, span) in &self.drop {
            let steps = normal_steps(Rice::CATALOGUE, steps, merger.lead());
            if merger.tree.take(&steps).is_some() {
                dropped.push(OverlayRemoval { steps, span: *span });
            } else {
                merger.problems.push(
                    Problem::warning("overlay/nothing-to-drop", format!("{} is not set below this overlay", path_of(&steps)))
                        .at(*span, "nothing is taken away here")
                        .because("A default cannot be dropped, only what a rice sets."),
                );
            }
        }
        merger.lay(self.table.clone(), Rice::CATALOGUE, layer);
    }
}

/// Which overlays hold on a computer, in the order they are laid.
pub(super) fn holding(overlays: &[Overlay], around: &dyn HostInfo) -> Vec<usize> {
    let mut which: Vec<usize> =
        (0..overlays.len()).filter(|at| around.forces(&overlays[*at].name) || overlays[*at].judge(around).holds).collect();
    // The files are in name order already, and the sort keeps it among equals.
    which.sort_by_key(|at| overlays[*at].head.order);
    which
}

/// Each overlay with whether it holds, in name order.
pub(super) fn seen(overlays: &[Overlay], which: &[usize], around: &dyn HostInfo) -> Vec<OverlayStatus> {
    let one = |(at, overlay): (usize, &Overlay)| OverlayStatus {
        file: overlay.file,
        when: overlay.when,
        personal: overlay.head.personal,
        by_hour: overlay.head.when.asks_hour(),
        verdict: overlay.judge(around),
        layer: which.iter().position(|own| *own == at).map(|at| at as u16),
    };
    overlays.iter().enumerate().map(one).collect()
}

/// What an overlay lays on, by itself.
pub fn overlay_alone(sources: &Sources, file: FileId, lead: &str) -> Branch {
    let Some(overlay) = read(sources, file, &mut Vec::new()) else { return Branch::default() };
    let mut merger = Merger::new(sources, lead);
    merger.lay(overlay.table, Rice::CATALOGUE, ConfigLayer::Overlay(0));
    merger.tree
}
