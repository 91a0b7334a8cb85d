//! One name for another, everywhere it is used, and nothing else.

use std::rc::Rc;

use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_home::rename::{RenameKind, rename};
use jovrik_text::Source;

fn rice(part: &str, overlay: &str) -> Files {
    let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
    files.add(Source::new("parts/a.toml", part));
    files.add(Source::new("overlays/far.toml", format!("[overlay]\nwhen = {{ host = \"dinghy\" }}\n{overlay}")));
    files
}

/// Renames, and gives the new texts without the head of the overlay.
#[track_caller]
fn renamed(part: &str, overlay: &str, thing: RenameKind, old: &str, new: &str) -> Result<(String, String), String> {
    let before = Rc::new(check(rice(part, overlay), &[], &UnknownHost));
    assert_eq!(before.errors(), 0, "{:?}", before.problems);
    let renamed = rename(before, thing, old, new, &UnknownHost).map_err(|error| error.to_string())?;
    assert_eq!(renamed.planned.after.errors(), 0);
    let text = |name: &str, old: &str| renamed.planned.files.get(name).cloned().unwrap_or_else(|| old.to_owned());
    let far = text("overlays/far.toml", &format!("\n\n{overlay}"));
    Ok((text("parts/a.toml", part), far.splitn(3, '\n').nth(2).unwrap_or_default().to_owned()))
}

/// Renames `OLD` to `new`: every `OLD` becomes it, and nothing else changes.
#[track_caller]
fn everywhere(part: &str, overlay: &str, thing: RenameKind) {
    let (old_part, old_overlay) = (part.replace("OLD", "old"), overlay.replace("OLD", "old"));
    let (new_part, new_overlay) = renamed(&old_part, &old_overlay, thing, "old", "new").expect("renamed");
    assert_eq!((new_part, new_overlay), (part.replace("OLD", "new"), overlay.replace("OLD", "new")));
}

#[test]
fn every_use_of_a_name_changes_and_what_only_looks_like_one_does_not() {
    everywhere(
        "[workspaces]\norder = [\"a\", 'OLD', \"older\"] # old\n[workspace.OLD]\nlayouts = [\"solo\"]\n[program]\nold = \"old\"\n\
         [start.old]\nopen = \"old\"\nworkspace = \"OLD\"\n[monitor.m]\nmatch = \"*\"\nworkspaces = [\"OLD\"]\n\
         [rule.r]\nmatch = { workspace = \"OLD\", title = \"old\" }\nset = { workspace = \"OLD\" }\n\
         [keys.desk]\n\"Lead+a\" = \"go OLD\"\n\"Lead+b\" = { do = 'carry OLD', note = \"go old\" }\n\"Lead+c\" = \"open old\"\n\"Lead+l\" = { do = [\"float on\", \"send OLD\"] }\n\
         [module.old]\ntext = \"go old\"\npress = { left = \"go OLD\", right = [{ label = \"old\", do = \"send OLD\" }] }\n\
         [idle]\nafter = { \"5m\" = \"go OLD\" }\n",
        "[workspace.OLD]\nicon = \"chart\"\n",
        RenameKind::Workspace,
    );
    everywhere(
        "[module.OLD]\ntext = \"old\"\n[module.b]\ntext = \"=module.OLD.text\"\ngroup = [\"OLD\"]\n\
         [bar.top]\nstart = [\"OLD\", \"b\"]\n[keys.desk]\n\"Lead+a\" = \"fold b\"\n[style.bar.module.OLD]\nink = \"@ink\"\n[style.bar.module.OLD.warn]\nink = \"@warn\"\n",
        "drop = [\"module.OLD.text\"]\n[bar]\ntop.end = [\"...\", \"OLD\"]\n",
        RenameKind::Module,
    );
    everywhere(
        "[program]\nOLD = \"old\"\n[start.x]\nopen = \"OLD\"\n[scope.mux]\ninside = \"OLD\"\n[keys.mux]\n\"n\" = \"open old\"\n\
         [keys.desk]\n\"Lead+a\" = \"open OLD\"\n\"Lead+b\" = \"run open old\"\n[keys.desk.modes.old]\n\"x\" = \"open OLD\"\n\"Escape\" = \"mode leave\"\n",
        "[program]\nOLD = { run = [\"old\"] }\n",
        RenameKind::Program,
    );
    everywhere(
        "[palette]\nuse = \"OLD\"\n[palette.OLD]\npaper = \"#000000\"\nink = \"#ffffff\"\n",
        "[palette]\nuse = \"OLD\"\n",
        RenameKind::Palette,
    );
    everywhere(
        "[layout.OLD]\nkind = \"grid\"\n[workspaces]\nlayouts = [\"OLD\", \"solo\"]\norder = [\"old\"]\n[keys.desk]\n\"Lead+a\" = \"layout OLD\"\n\"Lead+b\" = \"go old\"\n",
        "[workspace.old]\nlayouts = [\"OLD\"]\n",
        RenameKind::Layout,
    );
    everywhere(
        "[keys.desk.modes.OLD]\n\"a\" = \"mode leave\"\n[keys.desk]\n\"Lead+a\" = \"mode OLD\"\n",
        "[keys.desk.modes.\"OLD\"]\n\"b\" = \"mode OLD\"\n".replace("\"OLD\"]", "OLD]").as_str(),
        RenameKind::Mode,
    );
}

#[test]
fn a_name_that_is_not_there_or_taken_is_refused_and_odd_names_are_quoted() {
    let part = "[layout.mast]\nkind = \"main\"\n[layout.beam]\nkind = \"main\"\n[workspaces]\nlayouts = [\"mast\"]\n";
    let said = |old: &str, new: &str| renamed(part, "", RenameKind::Layout, old, new).expect_err("refused");
    assert_eq!(said("mats", "x"), "the rice has no layout mats; did you mean mast?");
    assert_eq!(said("mast", "beam"), "there is a layout beam already");
    assert_eq!(said("tideline", "x"), "the rice has no layout tideline; there is mast and beam");
    let (odd, _) = renamed(part, "", RenameKind::Layout, "mast", "tall mast").expect("renamed");
    assert_eq!(odd, part.replace("[layout.mast]", "[layout.\"tall mast\"]").replace("\"mast\"", "\"tall mast\""));
}
