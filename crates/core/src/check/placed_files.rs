//! Files that a rice places: where they come from, where they go, and what is filled into them.

use std::collections::HashMap;

use jovrik_text::Span;
use jovrik_text::problem::Problem;
use jovrik_toml::SpannedValue;

use super::{CheckContext, HostInfo};
use crate::template;

/// Why a target of `[place]` is none.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlaceTargetError {
    /// Whether it may be written all the same, when that is asked for each time.
    pub outside: bool,
    /// Why, in words.
    pub why: String,
}

/// Why a file of the rice is none, in words.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct PlaceSourceError(pub String);

/// Whether a path is one of the system's: nobody is advised to write there.
pub fn of_system(path: &str) -> bool {
    let folders = ["bin", "boot", "dev", "etc", "lib", "lib64", "proc", "root", "run", "sbin", "sys", "usr", "var"];
    path.strip_prefix('/').and_then(|rest| rest.split('/').next()).is_some_and(|first| folders.contains(&first))
}

pub(super) fn check(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let mut taken: HashMap<String, Span> = HashMap::new();
    for (to, file) in looker.rice.place.0.iter() {
        let Some(node) = looker.node(&["place", to]).filter(|node| node.span.written()) else { continue };
        target(to, node, around, &mut taken, problems);
        let from = looker.inside(node, "from").unwrap_or(node);
        match around.source(&file.from) {
            None => {}
            Some(Err(why)) => problems.push(
                Problem::error("place/source", format!("{} cannot be placed", file.from))
                    .at(from.span, why.to_string())
                    .because("What is placed is a file of the rice, best in art/."),
            ),
            Some(Ok(bytes)) if file.fill => fill(&file.from, bytes, from, looker, problems),
            Some(Ok(_)) => {}
        }
    }
}

fn target(to: &str, node: &SpannedValue, around: &dyn HostInfo, taken: &mut HashMap<String, Span>, problems: &mut Vec<Problem>) {
    match around.target(to) {
        None => {}
        Some(Ok(path)) => match taken.get(&path) {
            Some(first) => problems.push(
                Problem::error("place/twice", format!("two files are placed at {to}"))
                    .at(*first, "")
                    .at(node.key, format!("the same file: {path}"))
                    .because("Only one of them can be there."),
            ),
            None => {
                taken.insert(path, node.key);
            }
        },
        Some(Err(PlaceTargetError { outside: true, why })) => {
            let problem = Problem::warning("place/outside", format!("{to} lies outside the home folder")).at(node.key, why);
            problems.push(match of_system(to) {
                true => problem
                    .because("It is the system's, which a rice has no business with: apply leaves it alone.")
                    .advise("take it out of the rice", "or place it in the home folder, where programs look as well"),
                false => problem
                    .because("Apply leaves it alone, unless it is told each time.")
                    .advise(format!("jovrik apply --outside {to}"), "writes it this time"),
            });
        }
        Some(Err(PlaceTargetError { why, .. })) => problems.push(
            Problem::error("place/target", format!("{to} is no place for a file of a rice"))
                .at(node.key, why)
                .because("Only regular files are written, and links to them."),
        ),
    }
}

fn fill(name: &str, bytes: Vec<u8>, from: &SpannedValue, looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let code = "place/unfilled";
    let Ok(text) = String::from_utf8(bytes) else {
        problems.push(
            Problem::error(code, format!("{name} cannot be filled"))
                .at(from.span, "it is not UTF-8 text")
                .because("Values of the rice are put into a text.")
                .advise("fill = false", "places it as it is"),
        );
        return;
    };
    for wrong in template::fill(&text, looker.tree, looker.rice).err().into_iter().flatten() {
        let line = text[..wrong.at].matches('\n').count() + 1;
        problems.push(
            Problem::error(code, format!("{name}, line {line}: {wrong}"))
                .at(from.span, "this file")
                .because("It would be placed with a gap.")
                .advise("jovrik settings WORDS", "finds the path of a setting"),
        );
    }
}
