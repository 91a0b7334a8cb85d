//! What differs between two rices, in words.

use jovrik_core::change::{Change, changes, held_back, in_short};

use crate::checked;

fn between(old: &str, new: &str) -> Vec<Change> {
    changes(&checked(old).tree, &checked(new).tree)
}

fn told(old: &str, new: &str) -> Vec<String> {
    between(old, new).iter().map(ToString::to_string).collect()
}

const BAR: &str = "[bar.top]\nthick = 28\nend = [\"clock\"]\n[module.clock]\nsource = \"time\"\n";

#[test]
fn what_is_set_set_otherwise_or_no_longer_set_is_told_by_its_path() {
    assert_eq!(told(BAR, BAR), Vec::<String>::new());
    assert_eq!(told(BAR, &BAR.replace("28", "32")), ["bar.top.thick 28 \u{2192} 32"]);
    assert_eq!(told("", "[space]\nedge = 3\n"), ["space.edge = 3"]);
    assert_eq!(told("[space]\nedge = 3\n", ""), ["space.edge is no longer set"]);
    // How it is written makes no difference, and neither does the order.
    assert_eq!(told(BAR, &BAR.replace("thick = 28", "thick  =   0x1c  # as before")), Vec::<String>::new());
    assert_eq!(told("[space]\nedge = 3\nbetween = 4\n", "[space]\nbetween = 4\nedge = 3\n"), Vec::<String>::new());
    // A name that needs quotes has them.
    let bound = "[keys.desk]\n\"Lead+q\" = \"close\"\n";
    assert_eq!(told("", bound), ["keys.desk.\"Super+q\" = \"close\""]);
}

#[test]
fn many_changes_are_counted_and_few_are_said() {
    let short = |old: &str, new: &str| in_short(&between(old, new));
    assert_eq!(short("", ""), "nothing");
    assert_eq!(short(BAR, &BAR.replace("28", "32")), "bar.top.thick 28 \u{2192} 32");
    assert_eq!(short("", "[space]\nedge = 3\nbetween = 4\n"), "space.edge = 3, space.between = 4");
    assert_eq!(short("", "[space]\nedge = 3\nbetween = 4\nalone = 5\n"), "3 settings");
    let keys = "[keys.desk]\n\"Lead+q\" = \"close\"\n\"Lead+w\" = \"tuck\"\n";
    assert_eq!(short("", keys), "2 bindings");
    assert_eq!(short("", &format!("[space]\nedge = 3\n{keys}")), "space.edge = 3, 2 bindings");
    // What a binding costs, and who the lead is, is no binding.
    assert_eq!(short("", "[keys]\nlead = \"Alt\"\nsequence-wait = \"2s\"\n[keys.cost]\nswap = 3\n"), "3 settings");
}

#[test]
fn what_a_running_desktop_cannot_take_over_is_said_with_what_it_takes() {
    let held = held_back(&between("", "[space]\nedge = 3\n[environment]\nTIDE = \"low\"\n"));
    let paths: Vec<&str> = held.iter().map(|(path, _)| path.as_str()).collect();
    assert!(!paths.contains(&"space.edge"), "{held:?}");
    assert!(held.iter().all(|(_, takes)| !takes.is_empty()), "{held:?}");
}
