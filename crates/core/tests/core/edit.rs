use jovrik_schema::Tree;
use jovrik_text::Source;
use jovrik_toml::{TomlValue, apply_edits, insert, parse, remove, replace};
use proptest::prelude::*;

use crate::checked;

fn source(text: &str) -> (Source, jovrik_text::FileId) {
    (Source::new("parts/a.toml", text), jovrik_text::FileId(0))
}

fn set(text: &str, path: &[&str], value: &str) -> String {
    let (source, file) = source(text);
    let checked = checked(text);
    let edits = match checked.tree.get(path) {
        Some(Tree::Leaf(leaf)) => vec![replace(&source, &leaf.node, value)],
        _ => insert(file, &source, path, value),
    };
    apply_edits(text, &edits)
}

#[test]
fn a_value_is_replaced_and_every_other_byte_stays() {
    assert_eq!(
        set("# top\n[space]\n  edge=4 # why\n\nbetween = 8", &["space", "edge"], "20"),
        "# top\n[space]\n  edge=20 # why\n\nbetween = 8"
    );
    assert_eq!(set("[type]\ntext = 'Old'\n", &["type", "text"], "\"New\""), "[type]\ntext = 'New'\n");
    assert_eq!(set("[type]\ntext = 'Old'\n", &["type", "text"], "\"It's\""), "[type]\ntext = \"It's\"\n");
    assert_eq!(set("space = { edge = 4, between = 1 }\n", &["space", "edge"], "5"), "space = { edge = 5, between = 1 }\n");
}

#[test]
fn a_new_setting_goes_to_its_neighbours() {
    assert_eq!(
        set("[space]\nedge = 4\n\n# frames\n[frame]\nwidth = 2\n", &["space", "between"], "9"),
        "[space]\nedge = 4\nbetween = 9\n\n# frames\n[frame]\nwidth = 2\n"
    );
    assert_eq!(
        set("[frame]\nglow = { width = 6 }\n", &["frame", "glow", "fill"], "\"red\""),
        "[frame]\nglow = { width = 6, fill = \"red\" }\n"
    );
    assert_eq!(set("[space]\nedge = 4", &["frame", "width"], "3"), "[space]\nedge = 4\n\n[frame]\nwidth = 3\n");
    assert_eq!(set("", &["frame", "width"], "3"), "[frame]\nwidth = 3\n");
    assert_eq!(
        set("[keys.desk]\n\"Lead+x\" = \"close\"\n", &["keys", "desk", "Lead+y"], "\"quit\""),
        "[keys.desk]\n\"Lead+x\" = \"close\"\n\"Lead+y\" = \"quit\"\n"
    );
    assert_eq!(set("space.edge = 4\n", &["space", "between"], "9"), "space.edge = 4\nspace.between = 9\n");
}

#[test]
fn a_setting_is_taken_out_with_its_line_or_its_comma() {
    let without = |text: &str, path: &[&str]| {
        let (source, _) = source(text);
        let checked = checked(text);
        let leaf = checked.tree.get(path).and_then(Tree::leaf).expect("it is set").clone();
        apply_edits(text, &[remove(&source, &leaf.node).expect("it stands there")])
    };
    assert_eq!(without("[space]\n  edge = 4 # wide\nbetween = 8\n", &["space", "edge"]), "[space]\nbetween = 8\n");
    assert_eq!(without("[space]\nedge = 4", &["space", "edge"]), "[space]\n");
    assert_eq!(without("space = { edge = 4, between = 1 }\n", &["space", "edge"]), "space = { between = 1 }\n");
    assert_eq!(without("space = { edge = 4, between = 1 }\n", &["space", "between"]), "space = { edge = 4 }\n");
    assert_eq!(without("space = { edge = 4 }\n", &["space", "edge"]).replace(' ', ""), "space={}\n");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, max_global_rejects: 40_000, ..ProptestConfig::default() })]

    #[test]
    fn setting_anything_anywhere_keeps_the_rest_and_reads_back(lines in prop::collection::vec(0..10usize, 0..12), which in 0..6usize, number in 0..60i64) {
        let pieces = ["# a note\n", "\n", "[space]\n", "edge = 4\n", "between = 12 # px\n", "[frame]\n", "width = 1\n", "[frame.glow]\n", "[layout.mast]\n", "mains = 2\n"];
        let text: String = lines.iter().map(|at| pieces[*at]).collect();
        let (before, file) = source(&text);
        // Only files that TOML accepts are edited.
        let mut problems = Vec::new();
        parse(file, &before, &mut problems);
        let clean = checked(&text);
        prop_assume!(problems.is_empty() && clean.errors() == 0);
        let paths: [&[&str]; 6] = [&["space", "edge"], &["space", "between"], &["frame", "width"], &["frame", "radius"], &["frame", "glow", "width"], &["layout", "mast", "mains"]];
        let value = (number % 9 + 1).to_string();
        let after = set(&text, paths[which], &value);
        let now = checked(&after);
        prop_assert_eq!(now.errors(), 0, "{}", after);
        let leaf = now.tree.get(paths[which]).and_then(Tree::leaf).expect("it is set");
        prop_assert!(matches!(leaf.node.value, TomlValue::Integer(set) if set == number % 9 + 1), "{}", after);
        prop_assert_eq!(now.tree.entries.values().map(Tree::leaves).sum::<usize>(), clean.tree.entries.values().map(Tree::leaves).sum::<usize>() + usize::from(clean.tree.get(paths[which]).is_none()));
        // Every comment and every other assignment is still there, in order.
        let kept: Vec<&str> = text.lines().filter(|line| line.starts_with('#')).collect();
        let still: Vec<&str> = after.lines().filter(|line| line.starts_with('#')).collect();
        prop_assert_eq!(kept, still);
    }
}
