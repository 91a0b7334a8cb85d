//! The problems of all files, as they are told: each once, in their order, without those that the manifest accepts.

use std::collections::hash_map::Entry;
use std::collections::{HashMap, HashSet};

use jovrik_text::problem::{Problem, Severity};
use jovrik_text::{Sources, Span};

use super::manifest::Lists;
use super::problem_filter::ProblemFilter;

/// What is told, and what is accepted.
pub(super) fn gather(mut problems: Vec<Problem>, lists: &Lists, sources: &Sources) -> (Vec<Problem>, Vec<Problem>) {
    drop_echoes(sources, &mut problems);
    join_machines(&mut problems);
    // Whether a program or a font is there is a matter of the computer, not of the rice.
    let of_computer = |code: &str| ["program/", "type/", "monitor/"].iter().any(|area| code.starts_with(area));
    let accepts: Vec<ProblemFilter> = lists.allow.iter().map(|(text, _)| ProblemFilter::parse(text)).collect();
    let used = |accept: &ProblemFilter| problems.iter().any(|problem| accept.takes(problem, sources));
    let unused = lists.allow.iter().zip(&accepts).filter(|((code, _), accept)| !of_computer(code) && !used(accept));
    let unused: Vec<Problem> = unused.map(|((code, span), _)| unused_allow(code, *span)).collect();
    let is_accepted =
        |problem: &Problem| problem.severity == Severity::Warning && accepts.iter().any(|accept| accept.takes(problem, sources));
    let (accepted, mut problems): (Vec<Problem>, Vec<Problem>) = problems.into_iter().partition(is_accepted);
    problems.extend(unused);
    // Errors come first; before what follows from the facts of a computer, what is wrong with those.
    let follows = |problem: &Problem| {
        let place = problem.marks.first().and_then(|mark| sources.get(mark.span.file)).map(|source| source.name.as_str());
        !place.is_some_and(|name| name.starts_with("machines/"))
    };
    problems
        .sort_by_key(|problem| (problem.severity, follows(problem), problem.marks.first().map(|mark| mark.span), problem.code));
    // A file that serves several is read for each of them.
    problems.dedup_by(|one, other| {
        let place = |problem: &Problem| problem.marks.first().map(|mark| mark.span);
        (one.code, &one.title, place(one), &one.elsewhere) == (other.code, &other.title, place(other), &other.elsewhere)
            && place(one).is_some()
    });
    (problems, accepted)
}

/// A code that a rice accepts and that no longer occurs.
fn unused_allow(code: &str, span: Span) -> Problem {
    Problem::warning("check/unused-allow", format!("nothing here is {code} any more"))
        .at(span, "no longer needed")
        .because("Left in, it would hide the next one.")
        .advise("delete it", "in [check] of rice.toml")
}

/// What is missing on several computers, or named in several places, is one problem: it names all of them.
fn join_machines(problems: &mut Vec<Problem>) {
    let mut kept: Vec<Problem> = Vec::with_capacity(problems.len());
    let mut lacks: HashMap<(&'static str, String), (usize, HashSet<Span>)> = HashMap::new();
    for problem in problems.drain(..) {
        // Most problems are of no computer, and are met by none of the others.
        let Some(lack) = &problem.lack else {
            kept.push(problem);
            continue;
        };
        match lacks.entry((problem.code, lack.what.clone())) {
            Entry::Occupied(mut same) => {
                let (at, known) = same.get_mut();
                kept[*at].join(problem, known);
            }
            Entry::Vacant(first) => {
                first.insert((kept.len(), problem.marks.iter().map(|mark| mark.span).collect()));
                kept.push(problem);
            }
        }
    }
    *problems = kept;
}

/// Where TOML could not be read, what was made of the rest of the line says nothing; after a header that could not be
/// read, the same holds up to the next header.
fn drop_echoes(sources: &Sources, problems: &mut Vec<Problem>) {
    let doubtful = |problem: &Problem| {
        let span = problem.marks.first().filter(|_| problem.code == "file/not-toml" && problem.marks.len() == 1)?.span;
        let text = &sources.get(span.file)?.text;
        let start = text[..span.start as usize].rfind('\n').map_or(0, |at| at + 1);
        let next = if text[start..].trim_start().starts_with('[') { "\n[" } else { "\n" };
        let end = text[span.end as usize..].find(next).map_or(text.len(), |at| span.end as usize + at);
        Some((span.file, start as u32..=end as u32))
    };
    let doubtful: Vec<_> = problems.iter().filter_map(doubtful).collect();
    problems.retain(|problem| {
        let Some(span) = problem.marks.first().map(|mark| mark.span).filter(|_| problem.code != "file/not-toml") else {
            return true;
        };
        !doubtful.iter().any(|(file, bytes)| *file == span.file && bytes.contains(&span.start))
    });
}
