//! The greeting of a shell: drawings in characters, and facts beside them.

use jovrik_core::greeting::{Art, ArtError, ColouredText, Fact, lay};
use jovrik_core::rice::GreetingSettings;
use proptest::prelude::*;

use crate::{checked, found};

fn set(more: &str) -> GreetingSettings {
    checked(&format!("[module.tide]\ntext = \"x\"\n[greeting]\nfacts = [\"tide\"]\n{more}")).rice.greeting.clone()
}

fn wide(text: &str) -> usize {
    text.chars().count()
}

fn fact(label: &str, text: &str) -> Fact {
    Fact { name: label.to_owned(), label: label.to_owned(), text: text.to_owned(), ..Fact::default() }
}

fn lines(set: &GreetingSettings, facts: &[Fact], drawings: &[Art], room: usize) -> Vec<String> {
    let text = |line: Vec<ColouredText>| line.into_iter().map(|piece| piece.text).collect::<String>();
    lay(set, facts, drawings, room, &wide).into_iter().map(text).collect()
}

fn art(text: &str) -> Art {
    Art::parse(text).expect("a drawing")
}

const STAFF: &str = "@{accent} | == @{muted}5\n@{} | =\n~~|~~\n";

#[test]
fn a_drawing_changes_its_colour_where_it_says_so_and_keeps_it_until_then() {
    let roles: Vec<Vec<(&str, String)>> =
        art(STAFF).0.into_iter().map(|line| line.into_iter().map(|piece| (piece.role, piece.text)).collect()).collect();
    assert_eq!(roles[0], [("accent", " | == ".to_owned()), ("muted", "5".to_owned())]);
    assert_eq!(roles[1], [("", " | =".to_owned())]);
    assert_eq!(art("@{calm}a\nb").0[1][0].role, "calm", "also over the end of a line");
    assert_eq!(art("a @ {b} @{ c").0[0][0].text, "a @ {b} @{ c", "what is no mark is shown");
    assert_eq!(art("a\u{1b}[31mb").0[0][0].text, "a[31mb", "and nothing that a terminal would obey");
    let none = Art::parse("fine\n @{teal}no");
    assert_eq!(none, Err(ArtError::Role { line: 2, role: "teal".to_owned() }));
    assert_eq!(Art::parse(&"x\n".repeat(61)), Err(ArtError::Long));
}

#[test]
fn names_stand_in_a_column_and_the_drawing_beside_them() {
    let facts = [fact("tide", "ebb, 1.8 m"), fact("memory", "3.1 GiB"), fact("up", "2 d"), fact("host", "breakwater")];
    assert_eq!(
        lines(&set(""), &facts, &[art(STAFF)], 80),
        [
            " | == 5    tide     ebb, 1.8 m",
            " | =       memory   3.1 GiB",
            "~~|~~      up       2 d",
            "           host     breakwater"
        ]
    );
    let roles: Vec<&str> = lay(&set(""), &facts[..1], &[], 80, &wide)[0].iter().map(|piece| piece.role).collect();
    assert_eq!(roles, ["muted", "ink"]);
    let other = lay(&set("names = \"accent\"\nvalues = \"calm\"\n"), &facts[..1], &[], 80, &wide);
    assert_eq!(other[0].iter().map(|piece| piece.role).collect::<Vec<_>>(), ["accent", "calm"]);
}

#[test]
fn where_there_is_less_room_a_smaller_drawing_stands_there_or_none_and_lines_are_cut() {
    let facts = [fact("tide", "ebb, 1.8 m above the datum of the chart")];
    let both = [art(&"#".repeat(30)), art("##")];
    let first = |room: usize| lines(&set(""), &facts, &both, room)[0].clone();
    assert!(first(80).starts_with(&"#".repeat(30)));
    assert!(first(40).starts_with("##    tide"), "{}", first(40));
    assert_eq!(first(25), "tide   ebb, 1.8 m above…");
    assert_eq!((first(1).as_str(), first(4).as_str()), ("…", "tid…"));
}

#[test]
fn facts_go_into_columns_as_far_as_there_is_room_and_shares_have_bars() {
    let facts: Vec<Fact> = (1..=5).map(|nth| fact(&format!("f{nth}"), "yes")).collect();
    let two = set("columns = 2\n");
    assert_eq!(lines(&two, &facts, &[], 40), ["f1   yes    f4   yes", "f2   yes    f5   yes", "f3   yes"]);
    assert_eq!(lines(&two, &facts, &[], 15).len(), 5, "one under the other");
    let half = Fact { part: Some(0.5), sign: "≈".to_owned(), age: "4m ago".to_owned(), ..fact("disk", "7 GiB") };
    assert_eq!(lines(&set("bar = 6\n"), std::slice::from_ref(&half), &[], 60), ["≈ disk   7 GiB  ━━━━━━  4m ago"]);
    let roles: Vec<&str> = lay(&set("bar = 6\n"), &[half], &[], 60, &wide)[0].iter().map(|piece| piece.role).collect();
    assert_eq!(roles, ["accent", "muted", "ink", "calm", "line", "muted"]);
}

#[test]
fn facts_that_there_are_not_are_told() {
    let rice = checked(
        "[module.tide]\ntext = \"x\"\n[greeting]\nfacts = [\"tide\", \"host\", \"hots\", \"moon\"]\n[greeting.label]\ndisk = \"store\"\n",
    );
    let told: Vec<String> = found(&rice).into_iter().filter(|one| one.starts_with("greeting/")).collect();
    assert_eq!(
        told,
        ["greeting/no-fact parts/a.toml:4:26", "greeting/no-fact parts/a.toml:4:34", "greeting/unused parts/a.toml:6:1"]
    );
    let mend = rice.problems.iter().find_map(|problem| problem.fix.as_ref()).map(|fix| fix.writes.clone());
    assert_eq!(mend.as_deref(), Some("host"));
}

proptest! {
    /// Whatever stands there, no line is longer than the terminal is wide.
    #[test]
    fn no_line_is_too_long(
        facts in prop::collection::vec(("[a-z ]{0,12}", "\\PC{0,60}"), 0..8),
        drawing in "([a-z@{}~\n]|@\\{accent\\}){0,80}",
        room in 1_usize..120,
        columns in 1..6,
    ) {
        let facts: Vec<Fact> = facts.iter().map(|(label, text)| fact(label, text)).collect();
        let drawings: Vec<Art> = Art::parse(&drawing).into_iter().collect();
        for line in lines(&set(&format!("columns = {columns}\n")), &facts, &drawings, room) {
            prop_assert!(wide(&line) <= room, "{line:?}");
        }
    }
}
