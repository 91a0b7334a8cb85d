use jovrik_core::check::CheckedRice;
use jovrik_core::keys::{ConflictKind, KeyboardLayout, KeyboardLayouts, Plan, Scopes, SettleError, SettleProblem, fights};
use jovrik_values::chord::{ChordSequence, Modifier};
use proptest::prelude::*;

use crate::checked;

fn us() -> KeyboardLayouts {
    KeyboardLayouts::new(Vec::new(), false)
}

fn settling<'a>(checked: &'a CheckedRice, keyboards: &'a KeyboardLayouts) -> SettleProblem<'a> {
    SettleProblem {
        scopes: &checked.scopes,
        keyboards,
        cost: &checked.rice.keys.cost,
        lead: Modifier::Super,
        keep: Vec::new(),
        given: Vec::new(),
        chain: false,
        give_back: Vec::new(),
        only: None,
    }
}

fn told(plan: &Plan, scopes: &Scopes) -> Vec<String> {
    let one = |step: &jovrik_core::keys::Rebinding| {
        format!("{} → {} {}", scopes.bound[step.binding].written, step.to.with_lead(Modifier::Super), step.cost)
    };
    plan.moves.iter().map(one).collect()
}

fn moves(part: &str) -> Vec<String> {
    let checked = checked(part);
    let keyboards = us();
    told(&settling(&checked, &keyboards).plan().expect("there is room"), &checked.scopes)
}

fn desk(part: &str) -> Vec<String> {
    moves(&format!("[keys.desk]\n{part}"))
}

/// What is left of the bindings when a plan is carried out.
fn after(plan: &Plan, scopes: &Scopes) -> Scopes {
    let mut settled = scopes.clone();
    for step in &plan.moves {
        settled.bound[step.binding].keys = step.to.clone();
    }
    settled
}

#[test]
fn the_cheaper_of_two_moves_and_the_fixed_one_stays() {
    // q has a free neighbour; the first letter of a word makes a place cheaper.
    assert_eq!(desk("\"Lead+q\" = \"close\"\n\"super+q\" = \"quit\"\n"), ["super+q → Lead+w 250"]);
    assert_eq!(desk("\"Lead+q\" = \"close\"\n\"super+q\" = { do = \"quit\", fixed = true }\n"), ["Lead+q → Lead+w 250"]);
    assert_eq!(
        desk("\"Lead+q\" = \"close\"\n\"super+q\" = { do = \"go two\", note = \"walk\" }\n[workspaces]\norder = [\"two\"]\n"),
        ["super+q → Lead+w 150"]
    );
}

#[test]
fn a_stall_is_ended_by_moving_the_short_one_when_that_is_cheaper() {
    assert_eq!(desk("\"Lead+g\" = \"close\"\n\"Lead+g b\" = \"quit\"\n\"Lead+g d\" = \"kill\"\n"), ["Lead+g → Lead+c 230"]);
    // The short one is fixed: both sequences need another first chord.
    let both = desk("\"Lead+g\" = { do = \"close\", fixed = true }\n\"Lead+g b\" = \"quit\"\n\"Lead+g d\" = \"kill\"\n");
    assert_eq!(both, ["Lead+g b → Lead+f b 550", "Lead+g d → Lead+f d 550"]);
}

#[test]
fn who_is_swallowed_moves_out_of_the_way_or_the_desk_does() {
    let part = "[scope.mux]\ninside = \"xterm\"\n[keys.desk]\n\"Ctrl+n\" = { do = \"close\", fixed = true }\n[keys.mux]\n\"Ctrl+n\" = \"new pane\"\n\"Ctrl+m\" = \"menu\"\n";
    assert_eq!(moves(part), ["Ctrl+n → Ctrl+b 250"]);
    // A prefix weighs as much as its children: the desk's binding moves.
    let part = "[scope.mux]\nprefix = \"Ctrl+n\"\n[keys.desk]\n\"Ctrl+n\" = \"close\"\n[keys.mux]\n\"n\" = \"new pane\"\n\"m\" = \"menu\"\n";
    assert_eq!(moves(part), ["Ctrl+n → Ctrl+b 250"]);
    let part = part.replace("\"close\"", "{ do = \"close\", fixed = true }");
    assert_eq!(moves(&part), ["Ctrl+n → Ctrl+b 500"], "twice, for two children");
}

#[test]
fn a_new_place_is_free_on_every_layout_and_in_no_known_table() {
    let part = "[keys.desk]\n\"Lead+q\" = \"close\"\n\"super+q\" = \"quit\"\n\"Lead+a\" = \"kill\"\n";
    let checked = checked(part);
    let both =
        KeyboardLayouts::new(["us", "fr"].iter().filter_map(|name| KeyboardLayout::built_in(name, "pc105")).collect(), false);
    let plan = settling(&checked, &both).plan().expect("there is room");
    // w lies beside q on us and far away on fr: the larger distance counts.
    assert_eq!(told(&plan, &checked.scopes), ["super+q → Lead+w 262"], "{plan:?}");
    assert_eq!(fights(&after(&plan, &checked.scopes), &both), []);
}

#[test]
fn two_fixed_ones_have_no_peace_and_a_full_keyboard_has_no_place() {
    let fixed =
        checked("[keys.desk]\n\"Lead+q\" = { do = \"close\", fixed = true }\n\"super+q\" = { do = \"quit\", fixed = true }\n");
    let keyboards = us();
    let none = settling(&fixed, &keyboards).plan().expect_err("neither may move");
    assert_eq!((none.to_string().as_str(), &none), ("neither of the two may move", &SettleError::AllFixed(vec![0, 1])));
    // Two that stay fight behind a third, whoever that is.
    let behind = checked(
        "[scope.mux]\ninside = \"xterm\"\n[scope.editor]\nafter = \"mux\"\n[keys.desk]\n\"Lead+q\" = \"close\"\n\
         [keys.mux]\n\"Lead+q\" = { do = \"close\", fixed = true }\n[keys.editor]\n\"Lead+q\" = { do = \"close\", fixed = true }\n",
    );
    assert_eq!(settling(&behind, &keyboards).plan().expect_err("no move helps"), SettleError::AllFixed(vec![1, 2]));
    let one = KeyboardLayouts::new(vec![KeyboardLayout::of_text("one", "24 AD01 q\n").into()], false);
    let chords: Vec<String> = (0..8)
        .map(|bits| {
            let words: Vec<&str> = [("Ctrl+", 1), ("Alt+", 2), ("Shift+", 4)]
                .into_iter()
                .filter(|(_, bit)| bits & bit != 0)
                .map(|(word, _)| word)
                .collect();
            format!("\"Lead+{}q\" = \"close\"\n", words.concat())
        })
        .collect();
    let full = checked(&format!("[keys.desk]\n{}\"super+q\" = \"quit\"\n", chords.concat()));
    assert_eq!(settling(&full, &one).plan().expect_err("it is full").to_string(), "no free place is left for it");
}

#[test]
fn what_is_settled_has_no_fight_and_a_kept_one_stays() {
    let part = "\"Lead+a\" = \"close\"\n\"super+a\" = \"quit\"\n\"SUPER+a\" = \"kill\"\n\"Lead+s\" = \"reload\"\n\"super+s\" = \"focus next\"\n\"Lead+d\" = \"focus prev\"\n\"Lead+d x\" = \"go next\"\n\"Lead+d y\" = \"go prev\"\n";
    let checked = checked(&format!("[keys.desk]\n{part}"));
    let keyboards = us();
    let settling = SettleProblem { keep: vec![2], ..settling(&checked, &keyboards) };
    let plan = settling.plan().expect("there is room");
    assert!(plan.moves.iter().all(|step| step.binding != 2));
    assert_eq!(plan.gap, 0);
    assert_eq!(fights(&after(&plan, &checked.scopes), &keyboards), []);
    assert_eq!(settling.plan().expect("again"), plan, "the answer is always the same");
}

#[test]
fn a_given_move_pushes_away_who_is_there_and_a_chain_may_be_cheaper() {
    let part = "[keys.desk]\n\"Lead+a\" = \"close\"\n\"Lead+s\" = \"quit\"\n";
    let checked = checked(part);
    let keyboards = us();
    let to = ChordSequence::parse("Super+s", "Super").expect("a chord");
    let plan = SettleProblem { given: vec![(0, to)], ..settling(&checked, &keyboards) }.plan().expect("there is room");
    assert_eq!(told(&plan, &checked.scopes), ["Lead+a → Lead+s 250", "Lead+s → Lead+q 210"], "q for quit");
    // Everything near q is taken: with a chain the ring gives way.
    let ring = "[keys.desk]\n\"Lead+q\" = { do = \"close\", fixed = true }\n\"super+q\" = \"kill\"\n\"Lead+w\" = \"reload\"\n\"Lead+a\" = { do = \"focus next\", fixed = true }\n\"Lead+Tab\" = { do = \"focus prev\", fixed = true }\n\"Lead+1\" = { do = \"focus up\", fixed = true }\n\"Lead+2\" = { do = \"focus down\", fixed = true }\n";
    let checked = crate::checked(ring);
    let alone = settling(&checked, &keyboards).plan().expect("there is room");
    let chain = SettleProblem { chain: true, ..settling(&checked, &keyboards) }.plan().expect("there is room");
    assert!(chain.cost <= alone.cost, "{} {}", chain.cost, alone.cost);
    assert_eq!(fights(&after(&chain, &checked.scopes), &keyboards), []);
}

#[test]
fn the_best_plans_come_in_order_and_differ() {
    let checked = checked("[keys.desk]\n\"Lead+q\" = \"close\"\n\"super+q\" = \"quit\"\n");
    let keyboards = us();
    let plans = settling(&checked, &keyboards).plans(4).expect("there is room");
    let costs: Vec<i64> = plans.iter().map(|plan| plan.cost).collect();
    assert!(costs.is_sorted() && costs.len() == 4, "{costs:?}");
    let told: std::collections::BTreeSet<Vec<String>> = plans.iter().map(|plan| self::told(plan, &checked.scopes)).collect();
    assert_eq!(told.len(), 4, "{told:?}");
}

/// A keyboard of a few keys, so that trying everything ends.
fn small() -> KeyboardLayouts {
    KeyboardLayouts::new(vec![KeyboardLayout::of_text("small", "24 AD01 q\n25 AD02 w\n38 AC01 a\n").into()], false)
}

/// Two small layouts on which letters lie on other keys.
fn two() -> KeyboardLayouts {
    let one = KeyboardLayout::of_text("one", "24 AD01 q Q/S\n25 AD02 w W/S\n38 AC01 a A/S\n");
    KeyboardLayouts::new(
        vec![one.into(), KeyboardLayout::of_text("two", "24 AD01 a A/S\n25 AD02 w W/S\n38 AC01 q Q/S\n").into()],
        false,
    )
}

/// One binding of a random rice: key, modifiers, whether it is fixed, what it does, a second chord, its table.
type Random = (usize, usize, bool, usize, Option<usize>, usize);

fn rice_of(chords: &[Random]) -> String {
    let letters = ["q", "w", "a"];
    let actions = ["close", "quit", "kill", "reload"];
    let modifiers = ["", "Ctrl+", "Shift+"];
    let tables = ["desk", "desk.modes.sizing", "mux", "editor"];
    let mut text = String::from("[scope.mux]\ninside = \"xterm\"\n[scope.editor]\nafter = \"mux\"\n");
    for (at, table) in tables.iter().enumerate() {
        text.push_str(&format!("[keys.{table}]\n"));
        for (nth, (key, with, fixed, action, second, _)) in chords.iter().enumerate().filter(|(_, one)| one.5 == at) {
            let second = second.map(|second| format!(" {}", letters[second])).unwrap_or_default();
            // Each spelling is its own TOML key.
            let upper = |(at, c): (usize, char)| if nth & (1 << at) != 0 { c.to_ascii_uppercase() } else { c };
            let spelled: String = "super".chars().enumerate().map(upper).collect();
            text.push_str(&format!(
                "\"{spelled}+{}{}{second}\" = {{ do = \"{}\", fixed = {fixed} }}\n",
                modifiers[*with], letters[*key], actions[*action]
            ));
        }
    }
    text
}

fn as_cheap_as_everything(chords: &[Random], keyboards: &KeyboardLayouts, most: usize) -> Result<(), TestCaseError> {
    let text = rice_of(chords);
    let checked = checked(&text);
    let settling = settling(&checked, keyboards);
    let all = fights(&checked.scopes, keyboards);
    let bound = &checked.scopes.bound;
    let movers: std::collections::BTreeSet<usize> =
        all.iter().flat_map(|fight| fight.bindings.clone()).filter(|at| !bound[*at].fixed).collect();
    let sequences = movers.iter().filter(|at| bound[**at].keys.0.len() > 1).count();
    // Sequences are many: brute force over few who move.
    prop_assume!(movers.len() + sequences <= most);
    match (settling.plan(), settling.brute_force()) {
        (Ok(plan), Some(best)) => {
            prop_assert_eq!(plan.cost, best, "{} {:?}", text, told(&plan, &checked.scopes));
            let sum: i64 = plan.moves.iter().map(|step| step.cost).sum();
            prop_assert_eq!(plan.cost, sum);
            let left: Vec<_> = fights(&after(&plan, &checked.scopes), keyboards)
                .into_iter()
                .filter(|fight| fight.kind != ConflictKind::Displaced)
                .collect();
            prop_assert_eq!(left, vec![]);
        }
        (Err(_), None) => {}
        (plan, best) => prop_assert!(false, "{plan:?} against {best:?} for {text}"),
    }
    Ok(())
}

fn random() -> impl Strategy<Value = Vec<Random>> {
    let one = (0..3usize, 0..3usize, prop::bool::weighted(0.15), 0..4usize, prop::option::weighted(0.25, 0..3usize), 0..4usize);
    prop::collection::vec(one, 2..6)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 800, failure_persistence: None, max_global_rejects: 100_000, ..ProptestConfig::default() })]

    #[test]
    fn settling_is_as_cheap_as_trying_everything(chords in random()) {
        as_cheap_as_everything(&chords, &small(), 3)?;
    }

    #[test]
    fn settling_on_two_layouts_is_as_cheap_as_trying_everything(chords in random()) {
        as_cheap_as_everything(&chords, &two(), 2)?;
    }
}

#[test]
fn chords_are_written_with_the_lead_where_it_is() {
    let keys = ChordSequence::parse("Super+Shift+g c", "Super").expect("a sequence");
    assert_eq!(keys.with_lead(Modifier::Super), "Lead+Shift+g c");
    assert_eq!(keys.with_lead(Modifier::Alt), "Super+Shift+g c");
}
