//! Tests of the core: pure, fast, mostly tables and properties.

mod accepting;
mod alone;
mod around;
mod bar;
mod bindings;
mod broken;
mod catalogue;
mod change;
mod choices;
mod chords;
mod colours;
mod computer;
mod desk;
mod desktop;
mod dock;
mod drawn;
mod edit;
mod facts;
mod fit;
mod fuzz;
mod greeting;
mod icons;
mod items;
mod kept;
mod keys;
mod launcher;
mod laying;
mod layouts;
mod listening;
mod load;
mod notices;
mod outlines;
mod outputs;
mod overlays;
mod part;
mod plugging;
mod pretended;
mod printed;
mod reaching;
mod rules;
mod scenes;
mod schemas;
mod search;
mod settle;
mod share;
mod spelling;
mod stations;
mod styles;
mod template;
mod topics;
mod widgets;

use jovrik_core::check::{CheckedRice, Files, UnknownHost, check};
use jovrik_text::Source;

const MANIFEST: &str = "[rice]\nname = \"test\"\n";

/// Checks a rice of one part.
fn checked(part: &str) -> CheckedRice {
    checked_parts(&[("parts/a.toml", part)])
}

/// Checks a rice of several parts.
fn checked_parts(parts: &[(&str, &str)]) -> CheckedRice {
    let files = Files {
        manifest: Some(Source::new("rice.toml", MANIFEST)),
        parts: parts.iter().map(|(name, text)| Source::new(*name, *text)).collect(),
        ..Files::default()
    };
    check(files, &[], &UnknownHost)
}

/// The codes and main places of all problems: `setting/unknown a.toml:2:1`.
fn found(checked: &CheckedRice) -> Vec<String> {
    let line = |problem: &jovrik_text::problem::Problem| match problem.marks.first() {
        Some(mark) => {
            let file = checked.sources.get(mark.span.file).expect("a file that was read");
            let at = file.position(mark.span.start);
            format!("{} {}:{}:{}", problem.code, file.name, at.line, at.column)
        }
        None => problem.code.to_owned(),
    };
    checked.problems.iter().map(line).collect()
}
