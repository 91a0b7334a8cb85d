use jovrik_core::keys::{Keyboard, Keys, Modifier, Place, Plan, Settling, fights};
use jovrik_core::rice::{BindingAt, Rice};
use proptest::prelude::*;

use crate::checked;

fn plan(part: &str) -> (Plan, Vec<BindingAt>, Rice) {
    let checked = checked(&format!("[keys.desk]\n{part}"));
    let rice = (*checked.rice).clone();
    let bindings = rice.keys.desk.0.clone();
    let settling = Settling {
        bindings: &bindings,
        keyboard: Keyboard::us(),
        cost: &rice.keys.cost,
        lead: Modifier::Super,
        keep: Vec::new(),
    };
    (settling.plan().expect("there is room"), bindings.clone(), rice)
}

fn moves(part: &str) -> Vec<String> {
    let (plan, bindings, _) = plan(part);
    plan.moves
        .iter()
        .map(|step| format!("{} → {} {}", bindings[step.binding].written, step.to.with_lead(Modifier::Super), step.cost))
        .collect()
}

#[test]
fn the_cheaper_of_two_moves_and_the_fixed_one_stays() {
    // q has a free neighbour; the first letter of a word makes a place cheaper.
    assert_eq!(moves("\"Lead+q\" = \"close\"\n\"super+q\" = \"quit\"\n"), ["super+q → Lead+w 250"]);
    assert_eq!(moves("\"Lead+q\" = \"close\"\n\"super+q\" = { do = \"quit\", fixed = true }\n"), ["Lead+q → Lead+w 250"]);
    assert_eq!(
        moves("\"Lead+q\" = \"close\"\n\"super+q\" = { do = \"go two\", note = \"walk\" }\n[workspaces]\norder = [\"two\"]\n"),
        ["super+q → Lead+w 150"]
    );
}

#[test]
fn a_stall_is_ended_by_moving_the_short_one_when_that_is_cheaper() {
    assert_eq!(moves("\"Lead+g\" = \"close\"\n\"Lead+g b\" = \"quit\"\n\"Lead+g d\" = \"kill\"\n"), ["Lead+g → Lead+c 230"]);
    // The short one is fixed: both sequences need another first chord.
    let both = moves("\"Lead+g\" = { do = \"close\", fixed = true }\n\"Lead+g b\" = \"quit\"\n\"Lead+g d\" = \"kill\"\n");
    assert_eq!(both, ["Lead+g b → Lead+f b 550", "Lead+g d → Lead+f d 550"]);
}

#[test]
fn two_fixed_ones_have_no_peace_and_a_full_keyboard_has_no_place() {
    let checked =
        checked("[keys.desk]\n\"Lead+q\" = { do = \"close\", fixed = true }\n\"super+q\" = { do = \"quit\", fixed = true }\n");
    let settling = Settling {
        bindings: &checked.rice.keys.desk.0,
        keyboard: Keyboard::us(),
        cost: &checked.rice.keys.cost,
        lead: Modifier::Super,
        keep: Vec::new(),
    };
    assert_eq!(settling.plan().expect_err("neither may move").to_string(), "neither of the two may move");
    let one = Keyboard::of("one", vec![Place { name: "AD01", x: 0.0, y: 0.0, syms: vec![u32::from(b'q')] }]);
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
    let full = crate::checked(&format!("[keys.desk]\n{}\"super+q\" = \"quit\"\n", chords.concat()));
    let settling = Settling {
        bindings: &full.rice.keys.desk.0,
        keyboard: &one,
        cost: &full.rice.keys.cost,
        lead: Modifier::Super,
        keep: Vec::new(),
    };
    assert_eq!(settling.plan().expect_err("it is full").to_string(), "no free place is left for it");
}

#[test]
fn what_is_settled_has_no_fight_and_a_kept_one_stays() {
    let part = "\"Lead+a\" = \"close\"\n\"super+a\" = \"quit\"\n\"SUPER+a\" = \"kill\"\n\"Lead+s\" = \"reload\"\n\"super+s\" = \"focus next\"\n\"Lead+d\" = \"focus prev\"\n\"Lead+d x\" = \"go next\"\n\"Lead+d y\" = \"go prev\"\n";
    let checked = checked(&format!("[keys.desk]\n{part}"));
    let bindings = &checked.rice.keys.desk.0;
    let settling =
        Settling { bindings, keyboard: Keyboard::us(), cost: &checked.rice.keys.cost, lead: Modifier::Super, keep: vec![2] };
    let plan = settling.plan().expect("there is room");
    assert!(plan.moves.iter().all(|step| step.binding != 2));
    assert_eq!(plan.gap, 0);
    let mut settled = bindings.clone();
    for step in &plan.moves {
        settled[step.binding].keys = step.to.clone();
    }
    assert_eq!(fights(&settled, Keyboard::us()), []);
    assert_eq!(settling.plan().expect("again"), plan, "the answer is always the same");
}

/// A keyboard of a few keys, so that trying everything ends.
fn small() -> Keyboard {
    let place = |name: &'static str, letter: u8, x: f32, y: f32| Place { name, x, y, syms: vec![u32::from(letter)] };
    Keyboard::of("small", vec![place("AD01", b'q', 0.0, 0.0), place("AD02", b'w', 1.0, 0.0), place("AC01", b'a', 0.25, 1.0)])
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn settling_is_as_cheap_as_trying_everything(
        chords in prop::collection::vec((0..3usize, 0..3usize, prop::bool::weighted(0.15), 0..4usize, prop::option::weighted(0.25, 0..3usize)), 2..5),
    ) {
        let keyboard = small();
        let letters = ["q", "w", "a"];
        let actions = ["close", "quit", "kill", "reload"];
        let modifiers = ["", "Ctrl+", "Shift+"];
        let text: String = chords.iter().enumerate().map(|(nth, (key, with, fixed, action, second))| {
            let second = second.map(|second| format!(" {}", letters[second])).unwrap_or_default();
            // Each spelling is its own TOML key.
            let spelled: String = "super".chars().enumerate().map(|(at, c)| if nth & (1 << at) != 0 { c.to_ascii_uppercase() } else { c }).collect();
            format!("\"{spelled}+{}{}{second}\" = {{ do = \"{}\", fixed = {fixed} }}\n", modifiers[*with], letters[*key], actions[*action])
        }).collect();
        let checked = checked(&format!("[keys.desk]\n{text}"));
        let bindings = &checked.rice.keys.desk.0;
        let settling = Settling { bindings, keyboard: &keyboard, cost: &checked.rice.keys.cost, lead: Modifier::Super, keep: Vec::new() };
        // Sequences are many: brute force over at most three who move.
        let movers: std::collections::BTreeSet<usize> = fights(bindings, &keyboard).iter().flat_map(|fight| fight.bindings.clone()).filter(|at| !bindings[*at].binding.fixed).collect();
        let sequences = movers.iter().filter(|at| bindings[**at].keys.0.len() > 1).count();
        prop_assume!(movers.len() - sequences + 2 * sequences <= 3);
        match (settling.plan(), settling.brute_force()) {
            (Ok(plan), Some(best)) => {
                prop_assert_eq!(plan.cost, best, "{}", text);
                let sum: i64 = plan.moves.iter().map(|step| step.cost).sum();
                prop_assert_eq!(plan.cost, sum);
                let mut settled = bindings.clone();
                for step in &plan.moves {
                    settled[step.binding].keys = step.to.clone();
                }
                prop_assert_eq!(fights(&settled, &keyboard), vec![]);
            }
            (Err(_), None) => {}
            (plan, best) => prop_assert!(false, "{plan:?} against {best:?} for {text}"),
        }
    }
}

#[test]
fn chords_are_written_with_the_lead_where_it_is() {
    let keys = Keys::parse("Super+Shift+g c", "Super").expect("a sequence");
    assert_eq!(keys.with_lead(Modifier::Super), "Lead+Shift+g c");
    assert_eq!(keys.with_lead(Modifier::Alt), "Super+Shift+g c");
}
