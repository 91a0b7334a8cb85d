//! Checks of what is bound: layouts that do not exist, scopes and modes by names that mean something else, keys that no
//! layout has, and actions that lead nowhere.

use jovrik_core::check::{CheckedRice, Files, HostInfo, check};
use jovrik_core::keys::{KeyboardLayouts, RuleNames, UnknownLayout};
use jovrik_text::Source;
use jovrik_text::problem::{Problem, Severity};

use crate::{MANIFEST, found};

/// A computer with the built-in layouts and no others.
struct Boards;

impl HostInfo for Boards {
    fn keyboards(&self, asked: &RuleNames, latin: bool) -> Option<(KeyboardLayouts, Vec<UnknownLayout>)> {
        Some(KeyboardLayouts::built_in(asked, latin))
    }
}

fn judged_with(part: &str, art: &[(&str, &str)]) -> CheckedRice {
    let mut files = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    files.add(Source::new("parts/a.toml", part));
    art.iter().for_each(|(name, text)| files.add(Source::new(*name, *text)));
    check(files, &[], &Boards)
}

fn judged(part: &str) -> CheckedRice {
    judged_with(part, &[])
}

fn told(part: &str) -> Vec<String> {
    found(&judged(part))
}

/// The only problem of a part.
#[track_caller]
fn only(part: &str) -> Problem {
    let checked = judged(part);
    assert_eq!(checked.problems.len(), 1, "{part}: {:?}", found(&checked));
    checked.problems.into_iter().next().expect("one")
}

#[test]
fn layouts_and_variants_that_do_not_exist_are_told_where_they_are_named() {
    assert_eq!(told("[keyboard]\nlayouts = [\"us\", \"fr\"]\n"), Vec::<String>::new());
    let near = only("[keyboard]\nlayouts = [\"us\", \"frr\"]\n");
    assert_eq!((near.code, near.title.as_str()), ("keys/no-layout", "there is no keyboard layout frr"));
    assert!(near.marks[0].note.contains("did you mean fr?"), "{:?}", near.marks[0].note);
    let fix = near.fix.as_ref().expect("it can be mended");
    assert_eq!(fix.edits[0].text, "\"fr\"");
    let far = only("[keyboard]\nlayouts = [\"us\", \"quayside\"]\n");
    assert!(far.fix.is_none() && far.marks[0].note.starts_with("there are "), "{:?}", far.marks[0].note);
    let variant = only("[keyboard]\nlayouts = [\"us\", \"fr\"]\nvariant = [\"\", \"bepo\"]\n");
    assert_eq!(variant.title, "the layout fr has no variant bepo");
    // What must work elsewhere is looked at as well.
    let elsewhere = only("[keys]\nmust-work-on = [\"us\", \"xx\"]\n");
    assert_eq!(elsewhere.title, "there is no keyboard layout xx");
}

#[test]
fn scopes_and_modes_have_names_of_their_own() {
    for name in ["desk", "lead", "must-work-on"] {
        let part = format!("[scope.{name}]\ninside = \"xterm\"\n");
        let all = told(&part);
        assert!(all.contains(&"setting/reserved parts/a.toml:1:8".to_owned()), "{name}: {all:?}");
    }
    for mode in ["leave", "plain"] {
        let part = format!("[keys.desk.modes.{mode}]\n\"Escape\" = \"mode leave\"\n");
        assert!(told(&part).contains(&"setting/reserved parts/a.toml:1:18".to_owned()), "{mode}: {:?}", told(&part));
    }
    let unknown = only("[scope.mux]\ninside = \"xterm\"\n[keys.mxu]\n\"Ctrl+q\" = \"leaves\"\n");
    assert_eq!((unknown.code, unknown.title.as_str()), ("keys/no-scope", "there is no scope mxu"));
    assert!(unknown.marks[0].note.contains("did you mean mux?"));
    let nobody = only("[keys.harbour]\n\"Ctrl+q\" = \"leaves\"\n");
    assert!(nobody.advice.iter().any(|action| action.write == "[scope.harbour]"), "{:?}", nobody.advice);
    assert_eq!(only("[scope.a]\ninside = \"x\"\nafter = \"nowhere\"\n").code, "keys/no-scope");
}

#[test]
fn scopes_that_wait_for_each_other_are_told_once() {
    let own = only("[scope.a]\ninside = \"x\"\nafter = \"a\"\n");
    assert_eq!((own.code, own.title.as_str()), ("keys/loop", "the scope a comes after itself"));
    let ring = "[scope.a]\ninside = \"x\"\nafter = \"b\"\n[scope.b]\ninside = \"x\"\nafter = \"c\"\n[scope.c]\ninside = \"x\"\nafter = \"a\"\n";
    let ring = only(ring);
    assert_eq!(ring.title, "the scopes a, b and c come after each other in a circle");
}

#[test]
fn more_scopes_than_can_be_told_apart_are_refused_and_the_first_ones_stay() {
    let part: String = (0..110).map(|nth| format!("[scope.s{nth}]\ninside = \"app{nth}\"\n")).collect();
    let checked = judged(&part);
    let range: Vec<&Problem> = checked.problems.iter().filter(|problem| problem.code == "setting/range").collect();
    assert_eq!(range.len(), 1, "{:?}", found(&checked));
    assert!(range[0].title.starts_with("the rice has 110 scopes; "), "{}", range[0].title);
    assert!(checked.scopes.readers.len() > 100);
}

#[test]
fn what_a_program_binds_by_itself_is_read_from_art_and_may_be_displaced() {
    let part =
        "[scope.editor]\ninside = \"xterm\"\nknown = \"art/editor.toml\"\n[keys.editor]\n\"Ctrl+q\" = \"closes the chart\"\n";
    assert_eq!(told(part), ["file/not-found parts/a.toml:3:9"]);
    let known = "\"Ctrl+q\" = \"saves all\"\n\"Ctrl+w\" = \"writes\"\n\"Alt+q\" = \"saves all\"\n";
    let displaced = |known: &str| {
        let checked = judged_with(part, &[("art/editor.toml", known)]);
        let all = checked.problems.into_iter().filter(|problem| problem.code == "keys/displaced");
        all.map(|problem| (problem.severity, problem.why.clone())).collect::<Vec<_>>()
    };
    let first = displaced(known);
    assert!(first.len() == 1 && first[0].0 == Severity::Warning, "{first:?}");
    assert_eq!(first[0].1, "saves all can still be reached: Alt+q does the same.");
    let lost = displaced("\"Ctrl+q\" = \"saves all\"\n");
    assert_eq!(lost[0].1, "saves all is bound nowhere else.");
    assert_eq!(displaced("\"Ctrl+x\" = \"saves all\"\n"), []);
}

#[test]
fn a_key_that_a_layout_has_not_is_told_with_the_place_where_it_is() {
    let bound = |keys: &str, layouts: &str| format!("[keyboard]\nlayouts = [{layouts}]\n[keys.desk]\n\"{keys}\" = \"close\"\n");
    assert_eq!(told(&bound("Lead+odiaeresis", "\"de\"")), Vec::<String>::new());
    let missing = only(&bound("Lead+odiaeresis", "\"us\""));
    assert_eq!((missing.code, missing.title.as_str()), ("keys/no-key", "no key of the layout us makes ö"));
    // It is elsewhere on another one: that key has a place.
    let other = only(&bound("Lead+odiaeresis", "\"us\", \"de\""));
    assert_eq!(other.title, "no key of the layout us makes ö");
    let place = other.advice.iter().find(|action| action.write.contains('<')).expect("a place is advised");
    assert_eq!((place.write.as_str(), place.gloss.as_str()), ("\"Lead+<AC10>\"", "is the same key on every layout"));
    assert_eq!(told(&bound("Lead+<AC10>", "\"us\", \"de\"")), Vec::<String>::new());
    assert_eq!(only(&bound("Lead+<ZZ99>", "\"us\"")).code, "keys/no-key");
}

#[test]
fn actions_that_lead_nowhere_are_told_with_what_is_there() {
    let base = "[workspaces]\norder = [\"charts\", \"logs\"]\nlayouts = [\"main\", \"grid\"]\n[program]\nterminal = \"xterm\"\n\
        [bar.top]\nthick = 30\nend = [\"more\"]\n[module.more]\ntext = \"more\"\ngroup = [\"load\"]\n[module.load]\nsource = \"cpu\"\n\
        [palette]\nuse = \"noon\"\n[palette.noon]\nink = \"#ffffff\"\n[keys.desk.modes.sizing]\n\"Escape\" = \"mode leave\"\n";
    let lines = base.lines().count();
    let bound = |action: &str| format!("{base}[keys.desk]\n\"Lead+x\" = \"{action}\"\n");
    for action in [
        "go charts",
        "send logs",
        "carry logs",
        "layout grid",
        "open terminal",
        "summon terminal",
        "bar toggle top",
        "fold more",
        "mode sizing",
        "mode leave",
        "palette noon",
        "keyboard next",
        "press Lead+q",
        "set space.edge 4",
        "launcher apps",
    ] {
        assert_eq!(told(&bound(action)), Vec::<String>::new(), "{action}");
    }
    for action in [
        "go chart",
        "send log",
        "carry nowhere",
        "layout gird",
        "open termnial",
        "summon nothing",
        "bar toggle bottom",
        "fold load",
        "mode szing",
        "palette dusk",
        "keyboard xx",
        "press Lead+nokey",
        "set space.egde 4",
        "launcher nowhere",
        "set program.terminal x",
    ] {
        let checked = judged(&bound(action));
        let all = found(&checked);
        let place = format!("parts/a.toml:{}:12", lines + 2);
        assert!(all.len() == 1 && all[0].ends_with(&place), "{action}: {all:?}");
        let problem = &checked.problems[0];
        assert!(!problem.why.is_empty() && problem.severity == Severity::Error, "{action}: {problem:?}");
    }
    // One of several counts as well.
    let several = format!("{base}[keys.desk]\n\"Lead+x\" = [\"go charts\", \"go chart\"]\n");
    assert_eq!(told(&several).len(), 1);
}
