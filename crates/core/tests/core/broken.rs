//! The sample, broken at random in every way that hands and editors break files: it never panics, and says where.

use jovrik_core::check::{CheckedRice, Files, check};
use jovrik_core::machine::Machine;
use jovrik_text::{Source, Sources};
use proptest::prelude::*;

use crate::found;

const SKIFF: &str = include_str!("../../../../samples/saltmarsh/machines/skiff.toml");

/// Every file of the sample that is read.
const SAMPLE: [(&str, &str); 11] = [
    ("rice.toml", include_str!("../../../../samples/saltmarsh/rice.toml")),
    ("parts/bar.toml", include_str!("../../../../samples/saltmarsh/parts/bar.toml")),
    ("parts/desk.toml", include_str!("../../../../samples/saltmarsh/parts/desk.toml")),
    ("parts/keys.toml", include_str!("../../../../samples/saltmarsh/parts/keys.toml")),
    ("parts/launcher.toml", include_str!("../../../../samples/saltmarsh/parts/launcher.toml")),
    ("parts/look.toml", include_str!("../../../../samples/saltmarsh/parts/look.toml")),
    ("parts/start.toml", include_str!("../../../../samples/saltmarsh/parts/start.toml")),
    ("overlays/laptop.toml", include_str!("../../../../samples/saltmarsh/overlays/laptop.toml")),
    ("machines/breakwater.toml", include_str!("../../../../samples/saltmarsh/machines/breakwater.toml")),
    ("machines/skiff.toml", SKIFF),
    ("art/editor-keys.toml", include_str!("../../../../samples/saltmarsh/art/editor-keys.toml")),
];

fn judged(texts: &[String]) -> CheckedRice {
    let mut files = Files::default();
    for ((name, _), text) in SAMPLE.iter().zip(texts) {
        let source = Source::new(*name, text.clone());
        if *name == "rice.toml" { files.manifest = Some(source) } else { files.add(source) }
    }
    let (skiff, _) = Machine::read(&mut Sources::default(), Source::new("skiff", SKIFF));
    check(files, &[], &skiff)
}

/// A way to break a text.
#[derive(Debug, Clone)]
enum Break {
    /// Bytes go, others may come.
    Bytes { from: usize, len: usize, put: String },
    /// Two lines change places.
    Swap(usize, usize),
    /// A line stands twice.
    Double(usize),
    /// A value is of another type.
    Value(usize, &'static str),
    /// All from somewhere on is lost.
    Cut(usize),
}

const VALUES: [&str; 16] = [
    "true",
    "-1",
    "99999999999999999999",
    "1.5",
    "\"\"",
    "\"=space.edge\"",
    "\"@nobody\"",
    "[]",
    "[[1], [2]]",
    "{}",
    "{ a = { b = 1 } }",
    "1979-05-27",
    "\"\\u0000\"",
    "inf",
    "nan",
    "[\"...\", 3]",
];

fn a_break() -> impl Strategy<Value = Break> {
    prop_oneof![
        (0..2000usize, 0..40usize, "[\\[\\]{}\"'=\\.,# \na-z0-9@]{0,12}").prop_map(|(from, len, put)| Break::Bytes {
            from,
            len,
            put
        }),
        (0..80usize, 0..80usize).prop_map(|(a, b)| Break::Swap(a, b)),
        (0..80usize).prop_map(Break::Double),
        (0..60usize, proptest::sample::select(VALUES.to_vec())).prop_map(|(line, value)| Break::Value(line, value)),
        (0..2000usize).prop_map(Break::Cut),
    ]
}

fn broken(text: &str, how: &Break) -> String {
    let floor = |mut at: usize| {
        at = at.min(text.len());
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        at
    };
    let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
    let count = lines.len();
    match how {
        Break::Bytes { from, len, put } => {
            let mut text = text.to_owned();
            let start = floor(*from);
            text.replace_range(start..floor(start + len).max(start), put);
            return text;
        }
        Break::Cut(at) => return text[..floor(*at)].to_owned(),
        Break::Swap(a, b) => lines.swap(a % count, b % count),
        Break::Double(at) => lines.insert(at % count, lines[at % count].clone()),
        Break::Value(at, value) => {
            let with: Vec<usize> = (0..count).filter(|at| lines[*at].contains(" = ")).collect();
            let line = &mut lines[with[at % with.len()]];
            let name = line.split(" = ").next().unwrap_or_default().to_owned();
            *line = format!("{name} = {value}");
        }
    }
    lines.join("\n")
}

#[test]
fn the_sample_itself_has_no_problems_on_any_of_its_machines() {
    let told = judged(&SAMPLE.map(|(_, text)| text.to_owned()));
    assert_eq!(found(&told), Vec::<String>::new());
    assert_eq!(told.accepted.len(), 1, "breakwater and skiff differ by one program");
}

/// Breaks the sample, and looks at what is said of it.
fn says_where(all: &[(usize, Break)]) -> Result<(), TestCaseError> {
    let mut texts = SAMPLE.map(|(_, text)| text.to_owned());
    for (which, how) in all {
        if texts[*which].contains(" = ") {
            texts[*which] = broken(&texts[*which], how);
        }
    }
    let checked = judged(&texts);
    for problem in &checked.problems {
        prop_assert!(!problem.title.is_empty());
        prop_assert!(problem.place(&checked.sources).is_some(), "{problem:?}");
        for mark in &problem.marks {
            let file = checked.sources.get(mark.span.file).expect("a file that was read");
            prop_assert!(mark.span.end as usize <= file.text.len() && mark.span.start <= mark.span.end, "{problem:?}");
            let at = file.position(mark.span.start);
            prop_assert!(at.line >= 1 && at.column >= 1);
        }
    }
    Ok(())
}

// Ten thousand in all; two tests, so that two cores share them.
proptest! {
    #![proptest_config(ProptestConfig { cases: 5_000, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_sample_broken_once_never_panics_and_every_problem_has_its_places(one in (0..10usize, a_break())) {
        says_where(&[one])?;
    }

    #[test]
    fn a_sample_broken_twice_never_panics_and_every_problem_has_its_places(one in (0..10usize, a_break()), two in (0..10usize, a_break())) {
        says_where(&[one, two])?;
    }
}
