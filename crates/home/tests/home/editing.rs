use jovrik_core::check::{Files, UnknownHost};
use jovrik_home::edit::{ListEdit, list, reset, set};
use jovrik_home::{EditPlan, Error};
use jovrik_schema::Tree;
use jovrik_text::Source;
use proptest::prelude::*;

fn files(parts: &[(&str, &str)]) -> impl Fn() -> Files + use<> {
    let parts: Vec<(String, String)> = parts.iter().map(|(name, text)| ((*name).to_owned(), (*text).to_owned())).collect();
    move || Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")),
        parts: parts.iter().map(|(name, text)| Source::new(name.clone(), text.clone())).collect(),
        ..Files::default()
    }
}

fn written(planned: &EditPlan) -> Vec<(&str, &str)> {
    planned.files.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect()
}

#[test]
fn a_setting_is_written_where_it_stands_else_beside_its_neighbours_else_in_a_new_file() {
    let two = files(&[("parts/a.toml", "[space]\nedge = 1\n"), ("parts/b.toml", "[frame]\nwidth = 1\n")]);
    let stands = set(&two, "space.edge", "7", None, &UnknownHost).expect("fine");
    assert_eq!(written(&stands), [("parts/a.toml", "[space]\nedge = 7\n")]);
    let beside = set(&two, "frame.radius", "7", None, &UnknownHost).expect("fine");
    assert_eq!(written(&beside), [("parts/b.toml", "[frame]\nwidth = 1\nradius = 7\n")]);
    let fresh = set(&two, "type.size", "9", None, &UnknownHost).expect("fine");
    assert_eq!(written(&fresh), [("parts/type.toml", "[type]\nsize = 9\n")]);
}

#[test]
fn the_winner_of_two_lines_is_the_one_that_changes_and_reset_takes_both() {
    let two = files(&[("parts/a.toml", "[space]\nedge = 1\n"), ("parts/b.toml", "[space]\nedge = 2\nbetween = 3\n")]);
    let changed = set(&two, "space.edge", "7", None, &UnknownHost).expect("fine");
    assert_eq!(written(&changed), [("parts/b.toml", "[space]\nedge = 7\nbetween = 3\n")]);
    let gone = reset(&two, "space.edge", &UnknownHost).expect("fine");
    assert_eq!(written(&gone), [("parts/a.toml", "[space]\n"), ("parts/b.toml", "[space]\nbetween = 3\n")]);
    assert_eq!(gone.after.rice.space.edge.0, 12, "the default holds again");
    let table = reset(&two, "space", &UnknownHost).expect("fine");
    assert_eq!(written(&table), [("parts/a.toml", ""), ("parts/b.toml", "")]);
}

#[test]
fn a_binding_is_found_however_it_is_spelled_and_kept_as_it_is_written() {
    let one = files(&[("parts/a.toml", "[keys.desk]\n\"Lead+Alt+F9\" = \"close\" # mine\n")]);
    let changed = set(&one, "keys.desk.\"alt+super+f9\"", "quit", None, &UnknownHost).expect("fine");
    assert_eq!(written(&changed), [("parts/a.toml", "[keys.desk]\n\"Lead+Alt+F9\" = \"quit\" # mine\n")]);
    let added = set(&one, "keys.desk.\"Lead+g c\"", "reload", None, &UnknownHost).expect("fine");
    assert_eq!(written(&added)[0].1.lines().last(), Some("\"Lead+g c\" = \"reload\""));
    assert!(matches!(set(&one, "keys.desk.\"Lead+Q\"", "quit", None, &UnknownHost), Err(Error::Chord { .. })));
}

#[test]
fn a_field_of_a_table_in_one_line_is_changed_where_it_stands() {
    let text = "[rule.a]\nmatch = { app = \"gull*\",  title = 'x' } # mine\n";
    let one = files(&[("parts/a.toml", text)]);
    let changed = |path: &str, value: &str| {
        set(&one, path, value, None, &UnknownHost)
            .map(|planned| written(&planned)[0].1.to_owned())
            .map_err(|error| error.to_string())
    };
    assert_eq!(changed("rule.a.match.title", "y"), Ok(text.replace("'x'", "'y'")));
    assert_eq!(changed("rule.a.match.class", "tide"), Ok(text.replace("gull*", "tide")), "by a word of the trade, too");
    let more = "[rule.a]\nmatch = { app = \"gull*\", title = \"x\", workspace = \"2\" } # mine\n";
    assert_eq!(changed("rule.a.match.workspace", "2"), Ok(more.to_owned()), "a text, though it looks like a number");
    assert_eq!(changed("rule.b.match.transient", "true").expect("fine").matches("match = { transient = true }").count(), 1);
    assert_eq!(changed("rule.a.match.kind", "\"nonsense\""), Err("the rice would have errors".to_owned()));
    // What is written shorter is not taken apart.
    let short = files(&[("parts/a.toml", "[program]\nx = \"tidechart\"\n")]);
    assert!(matches!(set(&short, "program.x.app", "y", None, &UnknownHost), Err(Error::FieldOf { .. })));
    assert!(matches!(reset(&one, "rule.a.match.app", &UnknownHost), Err(Error::FieldOf { .. })));
}

#[test]
fn what_stands_in_the_place_of_a_name_is_found_inside_of_one() {
    let one = files(&[("parts/a.toml", "[bar.top]\nthick = 30\n[program]\nterminal = \"xterm\"\n")]);
    for (path, value, meant) in [
        ("bar.height", "30", "bar.top.thick"),
        ("bar.position", "bottom", "bar.top.edge"),
        ("keys.\"Super+q\"", "close", "keys.desk.\"Super+q\""),
        ("terminal", "xterm", "program.terminal"),
    ] {
        match set(&one, path, value, None, &UnknownHost) {
            Err(Error::NoSetting { near, .. }) => assert_eq!(near.as_deref(), Some(meant), "{path}"),
            other => panic!("{path}: {other:?}"),
        }
    }
    let told = set(&one, "keys.desk.\"Super+Shift+Q\"", "close", None, &UnknownHost).expect_err("a capital").to_string();
    assert!(told.contains("never fires") && told.ends_with("it is Super+Shift+q"), "{told}");
}

#[test]
fn what_makes_it_worse_is_refused_and_what_was_bad_before_does_not_hinder() {
    let bad = files(&[("parts/a.toml", "[space]\nedge = 900\nbetween = 3\n")]);
    assert!(matches!(set(&bad, "space.between", "901", None, &UnknownHost), Err(Error::Refused(_))));
    assert!(set(&bad, "space.between", "4", None, &UnknownHost).is_ok());
    let mended = set(&bad, "space.edge", "9", None, &UnknownHost).expect("it mends");
    assert!(mended.after.usable());
    assert!(matches!(set(&bad, "keys.desk.\"Lead+x\"", "clsoe", None, &UnknownHost), Err(Error::Refused(_))));
    assert!(matches!(set(&bad, "space", "1", None, &UnknownHost), Err(Error::Place(_))));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn set_on_a_large_rice_rewrites_only_the_bytes_of_that_value(which in 0..233usize, number in 1..9i64, share in 10..90i64, what in 0..2usize) {
        let mut text = String::new();
        for nth in 0..700 {
            text.push_str(&format!("\n# layout {nth}: \u{2248} high water\n[layout.l{nth}]\nkind = \"main\"   # plain\nshare   =   '40%'\nmains=1# tight\nnew = \"stack-end\"\n"));
        }
        prop_assert!(text.lines().count() >= 4900);
        let one = files(&[("parts/a.toml", &text)]);
        let (setting, value) = if what == 0 { ("mains", number.to_string()) } else { ("share", format!("{share}%")) };
        let planned = set(&one, &format!("layout.l{which}.{setting}"), &value, None, &UnknownHost).expect("fine");
        let new = &planned.files["parts/a.toml"];
        let Some(Tree::Leaf(leaf)) = planned.before.tree.get(&["layout", &format!("l{which}"), setting]) else { panic!("it stands there") };
        let span = leaf.node.span.range();
        prop_assert_eq!(&new[..span.start], &text[..span.start]);
        let tail = text.len() - span.end;
        prop_assert_eq!(&new[new.len() - tail..], &text[span.end..]);
        let written = &new[span.start..new.len() - tail];
        prop_assert_eq!(written, if what == 0 { value.clone() } else { format!("'{value}'") });
    }
}

#[test]
fn elements_of_a_list_come_and_go_in_the_way_it_is_written() {
    let change = |text: &str, change: ListEdit| -> String {
        let one = files(&[("parts/a.toml", text)]);
        match list(&one, "workspaces.order", &change, None, &UnknownHost) {
            Ok(planned) => written(&planned)[0].1.to_owned(),
            Err(error) => format!("{error}"),
        }
    };
    let add = |text: &str| ListEdit::Add(text.to_owned(), None);
    let take = |text: &str| ListEdit::Take(text.to_owned());
    let line = "[workspaces]\norder = [ 'a', \"b\" ] # two\n";
    assert_eq!(change(line, add("c")), "[workspaces]\norder = [ 'a', \"b\", \"c\" ] # two\n");
    assert_eq!(change(line, ListEdit::Add("c".to_owned(), Some(0))), "[workspaces]\norder = [ \"c\", 'a', \"b\" ] # two\n");
    assert_eq!(change(line, ListEdit::Add("c".to_owned(), Some(9))), "[workspaces]\norder = [ 'a', \"b\", \"c\" ] # two\n");
    assert_eq!(change(line, take("a")), "[workspaces]\norder = [ \"b\" ] # two\n");
    assert_eq!(change(line, take("b")), "[workspaces]\norder = [ 'a' ] # two\n");
    assert_eq!(change(line, take("z")), "z is not in workspaces.order, at parts/a.toml:2");
    let lines = "[workspaces]\norder = [\n  \"a\", # first\n  \"b\",\n]\n";
    assert_eq!(change(lines, add("c")), "[workspaces]\norder = [\n  \"a\", # first\n  \"b\",\n  \"c\",\n]\n");
    assert_eq!(change(lines, take("b")), "[workspaces]\norder = [\n  \"a\", # first\n]\n");
    assert_eq!(change(lines, take("a")), "[workspaces]\norder = [\n  \"b\",\n]\n");
    assert_eq!(change("[workspaces]\norder = []\n", add("1")), "[workspaces]\norder = [\"1\"]\n");
    assert_eq!(change("[workspaces]\norder = [\"a\",]\n", take("a")), "[workspaces]\norder = []\n");
    assert_eq!(change("[space]\nedge = 1\n", add("six")).lines().last(), Some("order = [\"...\", \"six\"]"));
    let spliced = change("[workspaces]\norder = [\"...\", \"x\"]\n", take("x"));
    assert_eq!(spliced, "[workspaces]\norder = [\"...\"]\n");
    let none = files(&[("parts/a.toml", "")]);
    assert!(matches!(list(&none, "space.edge", &add("1"), None, &UnknownHost), Err(Error::Place(_))));
    assert!(matches!(list(&none, "workspaces.order", &take("one"), None, &UnknownHost), Err(Error::Place(_))));
    let bars = files(&[("parts/a.toml", "[bar.top]\nend = [\"x\"]\n[module.x]\nsource = \"cpu\"\n")]);
    assert!(matches!(list(&bars, "bar.top.end", &add("gone"), None, &UnknownHost), Err(Error::Refused(_))));
}

#[test]
fn a_table_that_is_reset_leaves_no_header_behind() {
    let one = files(&[(
        "parts/a.toml",
        "[space]\nedge = 1\n\n[bar.side]\nthick = 40\n\n# Frames.\n[frame]\nwidth = 1\n[frame.glow]\nwidth = 2\n",
    )]);
    let gone = reset(&one, "bar.side", &UnknownHost).expect("fine");
    assert!(!gone.after.rice.bar.contains_key("side"));
    assert_eq!(
        written(&gone),
        [("parts/a.toml", "[space]\nedge = 1\n\n# Frames.\n[frame]\nwidth = 1\n[frame.glow]\nwidth = 2\n")]
    );
    let frame = reset(&one, "frame", &UnknownHost).expect("fine");
    assert_eq!(written(&frame), [("parts/a.toml", "[space]\nedge = 1\n\n[bar.side]\nthick = 40\n\n# Frames.\n")]);
}
