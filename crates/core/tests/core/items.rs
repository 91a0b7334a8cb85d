//! Elements of lists, and tables, put in and taken out of a person's file: the list is what was meant, the rest stays.

use jovrik_schema::Tree;
use jovrik_text::{FileId, Source};
use jovrik_toml::{SpannedValue, TomlValue, apply_edits, insert, insert_item, parse, remove_item, remove_table, replace};
use proptest::prelude::*;

use crate::{checked, found};

/// How a list is written.
#[derive(Debug, Clone, Copy)]
enum Style {
    Line,
    Tight,
    Lines { comma: bool },
    Noted { comma: bool },
    Ragged,
}

const STYLES: [Style; 7] = [
    Style::Line,
    Style::Tight,
    Style::Lines { comma: true },
    Style::Lines { comma: false },
    Style::Noted { comma: true },
    Style::Noted { comma: false },
    Style::Ragged,
];

const NAMES: [&str; 6] = ["ebb", "flood", "neap, or so", "spring # not a note", "bar", "gauge"];

fn written(names: &[usize], style: Style) -> String {
    let quoted: Vec<String> = names.iter().map(|nth| format!("\"{}\"", NAMES[*nth])).collect();
    let lines = |comma: bool, note: bool| {
        let last = quoted.len().saturating_sub(1);
        let one = |(at, text): (usize, &String)| {
            let comma = if comma || at < last { "," } else { "" };
            let note = if note { format!(" # the {at}.") } else { String::new() };
            format!("  {text}{comma}{note}\n")
        };
        format!("[\n{}]", quoted.iter().enumerate().map(one).collect::<String>())
    };
    match style {
        Style::Line => format!("[{}]", quoted.join(", ")),
        Style::Tight => format!("[{}]", quoted.join(",")),
        Style::Lines { comma } => lines(comma, false),
        Style::Noted { comma } => lines(comma, true),
        Style::Ragged => format!("[ {} ]", quoted.join(" ,\n    ")),
    }
}

/// A file with a list in it, and comments before and behind.
fn file(names: &[usize], style: Style) -> String {
    format!("# before\n[workspaces]\norder = {} # behind\nlayouts = [\"main\"]\n# after\n", written(names, style))
}

/// The list of a file as it is read.
fn list_of(text: &str) -> SpannedValue {
    let mut problems = Vec::new();
    let entries = parse(FileId(0), &Source::new("parts/a.toml", text), &mut problems);
    assert_eq!(problems, [], "{text}");
    let table = entries.into_iter().find(|(name, _)| name == "workspaces").expect("a table").1;
    let TomlValue::Table(entries) = table.value else { unreachable!("{text}") };
    entries.into_iter().find(|(name, _)| name == "order").expect("a list").1
}

fn names_of(list: &SpannedValue) -> Vec<String> {
    let TomlValue::Array(items) = &list.value else { unreachable!("{list:?}") };
    items.iter().map(|item| item.text().expect("a text").to_owned()).collect()
}

fn comments(text: &str) -> usize {
    text.lines().filter(|line| line.contains("# ") && !line.trim_start().starts_with('"') || line.contains(" # the ")).count()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn elements_come_and_go_one_after_another(
        first in prop::collection::vec(0..NAMES.len(), 0..5),
        style in 0..STYLES.len(),
        steps in prop::collection::vec((any::<bool>(), 0..7usize, 0..NAMES.len()), 1..8),
    ) {
        let mut text = file(&first, STYLES[style]);
        let mut model: Vec<String> = first.iter().map(|nth| NAMES[*nth].to_owned()).collect();
        for (puts, place, name) in steps {
            let (source, list) = (Source::new("parts/a.toml", text.clone()), list_of(&text));
            let outside = |text: &str| text.lines().filter(|line| ["# before", "# after"].contains(line)).count();
            if puts {
                let at = (place < model.len()).then_some(place);
                let value = format!("\"{}\"", NAMES[name]);
                let edits = insert_item(&source, &list, at, &value).expect("it is a list");
                let after = apply_edits(&text, &edits);
                prop_assert!(comments(&after) >= comments(&text), "no comment is lost:\n{text}\n{after}");
                text = after;
                model.insert(at.unwrap_or(model.len()), NAMES[name].to_owned());
            } else if place < model.len() {
                let edit = remove_item(&source, &list, place).expect("it is there");
                text = apply_edits(&text, &[edit]);
                model.remove(place);
            } else {
                prop_assert!(remove_item(&source, &list, place).is_none(), "there is no such element");
            }
            prop_assert_eq!(names_of(&list_of(&text)), model.clone(), "{}", text);
            prop_assert_eq!(outside(&text), 2, "what stands round it stays: {}", text);
            prop_assert!(text.contains("layouts = [\"main\"]"), "{}", text);
        }
    }

    #[test]
    fn what_is_put_in_and_taken_out_again_leaves_the_bytes_as_they_were(
        first in prop::collection::vec(0..NAMES.len(), 1..5),
        style in 0..6usize,
        place in 0..6usize,
    ) {
        // A ragged list is written in no way that could be kept up.
        let text = file(&first, STYLES[style]);
        let at = (place < first.len()).then_some(place);
        let source = Source::new("parts/a.toml", text.clone());
        let with = apply_edits(&text, &insert_item(&source, &list_of(&text), at, "\"dredger\"").expect("a list"));
        let source = Source::new("parts/a.toml", with.clone());
        let edit = remove_item(&source, &list_of(&with), at.unwrap_or(first.len())).expect("it is there");
        let back = apply_edits(&with, &[edit]);
        // A comma behind the last one says nothing.
        let bare = |text: &str| text.replace("\", #", "\" #").replace(",\n]", "\n]");
        prop_assert_eq!(bare(&back), bare(&text), "{}", with);
    }
}

#[test]
fn values_that_are_no_lists_have_no_elements() {
    let text = "[space]\nedge = 4\n";
    let source = Source::new("parts/a.toml", text);
    let checked = checked(text);
    let node = &checked.tree.get(&["space", "edge"]).and_then(Tree::leaf).expect("it is set").node;
    assert!(insert_item(&source, node, None, "1").is_none() && remove_item(&source, node, 0).is_none());
}

#[test]
fn a_table_goes_with_its_own_and_nothing_else() {
    let without = |text: &str, path: &[&str]| {
        let steps: Vec<String> = path.iter().map(|step| (*step).to_owned()).collect();
        let source = Source::new("parts/a.toml", text);
        let after = apply_edits(text, &remove_table(FileId(0), &source, &steps));
        let left = checked(&after);
        assert_eq!(found(&left).iter().filter(|one| one.starts_with("file/")).count(), 0, "{after}");
        assert!(left.tree.get(path).is_none(), "{after}");
        after
    };
    assert_eq!(without("[space]\nedge = 4\n[frame]\nwidth = 2\n", &["space"]), "[frame]\nwidth = 2\n");
    assert_eq!(without("[frame]\nwidth = 2\n[frame.glow]\nwidth = 3\n[space]\nedge = 4\n", &["frame"]), "[space]\nedge = 4\n");
    let bars = "[bar.top]\nthick = 30\n\n# The other one.\n[bar.side]\nthick = 40\n";
    assert_eq!(without(bars, &["bar", "top"]).trim_start(), "# The other one.\n[bar.side]\nthick = 40\n");
    assert_eq!(without("space.edge = 4\nspace.between = 3\nframe.width = 2\n", &["space"]), "frame.width = 2\n");
    let inline = without("frame = { width = 2, glow = { width = 3 } }\n", &["frame", "glow"]);
    assert_eq!(inline.replace(' ', ""), "frame={width=2}\n");
}

#[test]
fn a_setting_finds_its_place_in_every_way_a_table_is_written() {
    for (text, steps, value) in [
        ("", vec!["space", "edge"], "4"),
        ("[space]\n", vec!["space", "edge"], "4"),
        ("[frame]\nwidth = 1\n", vec!["space", "edge"], "4"),
        ("space = { between = 1 }\n", vec!["space", "edge"], "4"),
        ("space.between = 1\n", vec!["space", "edge"], "4"),
        ("[bar.top]\nthick = 30\n", vec!["bar", "side", "thick"], "30"),
        ("[bar]\n[bar.top]\nthick = 30\n", vec!["bar", "side", "thick"], "30"),
        ("[frame.glow]\nwidth = 3\n", vec!["frame", "width"], "2"),
        ("# only a note", vec!["keys", "desk", "Lead+x"], "\"close\""),
        ("[keys.desk]\n\"Lead+y\" = \"quit\"\n\n# the end\n", vec!["keys", "desk", "Lead+x"], "\"close\""),
        ("[module.\"two words\"]\ntext = \"a\"\n", vec!["module", "two words", "empty"], "\"b\""),
    ] {
        let source = Source::new("parts/a.toml", text);
        let after = apply_edits(text, &insert(FileId(0), &source, &steps, value));
        let checked = checked(&after);
        let steps = if steps[0] == "keys" { vec!["keys", "desk", "Super+x"] } else { steps };
        let leaf = checked.tree.get(&steps).and_then(Tree::leaf).unwrap_or_else(|| panic!("{steps:?} in\n{after}"));
        assert_eq!(leaf.node.to_toml(), value, "{after}");
        for line in text.lines().filter(|line| line.starts_with('#')) {
            assert!(after.contains(line), "{after}");
        }
        // And again: another value takes its place.
        let source = Source::new("parts/a.toml", after.clone());
        let other = if value.starts_with('"') { "\"kill\"" } else { "7" };
        let again = apply_edits(&after, &[replace(&source, &leaf.node, other)]);
        assert_eq!(again.len() + value.len(), after.len() + other.len(), "only the value is another: {again}");
    }
}
