//! What is offered for a setting can be set, and what follows what is known.

use jovrik_core::rice::{Rice, actions, choices, followers, goes_with};
use jovrik_schema::Colour;
use jovrik_schema::catalogue::{CatalogueMatch, SettingShape, each, find};
use jovrik_toml::{quoted, steps};
use proptest::prelude::*;

use crate::{checked, found};

const RICE: &str = "[palette.ebb]\n[palette.noon]\n[workspaces]\norder = [\"charts\", \"logs\"]\n[layout.mast]\nkind = \"main\"\n\
    [program]\nterminal = \"xterm\"\n[bar.top]\nend = [\"clock\"]\n[module.clock]\nsource = \"time\"\ntext = \"{time}\"\n\
    [start.terminal]\nopen = \"terminal\"\n[monitor.left]\nworkspaces = [\"post\"]\n";

#[test]
fn every_choice_of_every_setting_is_accepted_by_the_check() {
    let rice = checked(RICE).rice;
    let mut tried = 0;
    each(Rice::CATALOGUE, &mut |path, field| {
        let SettingShape::One(kind) = field.shape else { return };
        let path = path.replace("bar.NAME", "bar.top").replace("module.NAME", "module.clock").replace("NAME", "n");
        for choice in choices(&steps(&path), kind, &rice) {
            tried += 1;
            // A list takes it as an element; numbers and truth stand without quotes.
            let plain = matches!(kind.name, "true or false");
            let value = if plain { choice.value.clone() } else { quoted(&choice.value) };
            let value = if kind.name == "list" { format!("[{value}]") } else { value };
            let with = [(path.clone(), value.clone())];
            let files = jovrik_core::check::Files {
                parts: vec![jovrik_text::Source::new("parts/a.toml", RICE)],
                manifest: Some(jovrik_text::Source::new("rice.toml", crate::MANIFEST)),
                ..Default::default()
            };
            let told = jovrik_core::check::check(files, &with, &jovrik_core::check::UnknownHost);
            let wrong: Vec<_> =
                told.problems.iter().map(|problem| &problem.title).filter(|title| title.contains(&path)).collect();
            assert!(wrong.is_empty(), "{path} = {value}: {wrong:?}");
        }
    });
    assert!(tried > 150, "{tried}");
}

#[test]
fn actions_are_those_that_can_be_parsed_with_the_names_of_the_rice() {
    let rice = checked(RICE).rice;
    let all = actions(&rice);
    for choice in &all {
        let parsed = jovrik_values::action::Action::parse(&choice.value);
        assert!(parsed.is_ok() || matches!(choice.value.as_str(), "run" | "shell" | "press" | "set"), "{choice:?}");
        assert!(!choice.gloss.is_empty());
    }
    let has = |text: &str| all.iter().any(|choice| choice.value == text);
    assert!(has("open terminal") && has("go post") && has("layout mast") && has("layout grid") && has("bar toggle top"));
    assert!(!has("layout back") && !has("go nowhere"));
}

#[test]
fn followers_are_found_by_path_and_by_role_written_and_by_default() {
    let text = "[palette]\nuse = \"ebb\"\n[palette.ebb]\n[space]\nedge = \"=space.between\"\nalone = \"= space.between\"\n[frame]\nactive = \"@calm\"\n\
        idle = \"@calm/40%\"\nglow = { fill = \"@calm\" }\n[workspace.charts]\nicon = \"chart\"\n";
    let checked = checked(text);
    let of = |target: &str| -> Vec<String> {
        let mark = |(path, by_default): (String, bool)| if by_default { format!("{path} by default") } else { path };
        followers(&checked.tree, target).into_iter().map(mark).collect()
    };
    assert_eq!(of("space.between"), ["space.edge"]);
    assert_eq!(of("@calm"), ["frame.active", "frame.idle", "frame.glow.fill"]);
    assert_eq!(of("workspaces.layouts"), ["workspace.charts.layouts by default"]);
    assert_eq!(of("backdrop.fit"), ["workspace.charts.backdrop.fit by default"]);
    assert_eq!(of("@alert"), ["frame.urgent by default"]);
    assert_eq!(of("space.alone"), Vec::<String>::new());
    assert!(goes_with("bar.NAME.edge").is_some() && goes_with("bar.NAME.end").is_none());
}

#[test]
fn what_goes_with_a_setting_is_said_of_settings_that_exist() {
    for path in
        ["bar.NAME.edge", "bar.NAME.thick", "bar.NAME.monitor", "palette.use", "keys.lead", "frame.width", "workspaces.order"]
    {
        assert!(goes_with(path).is_some(), "{path}");
        assert!(matches!(find(Rice::CATALOGUE, &steps(path)), Ok(CatalogueMatch::Field(_))), "{path}");
    }
}

#[test]
fn tables_of_values_that_are_read_and_refused() {
    let good = [
        ("monitor.a", "mode = \"1920x1080@60\""),
        ("monitor.a", "mode = \"1366x768\""),
        ("monitor.a", "at = \"-1920,0\""),
        ("monitor.a", "at = \"0,0\""),
        ("monitor.a", "scale = 2"),
        ("monitor.a", "scale = 1.25"),
        ("rule.a", "match = { app = \"re:^Gull\", transient = true }"),
        ("rule.a", "set = { size = [\"40%\", 300], at = \"10,20\" }"),
        ("rule.a", "set = { opacity = \"85%\", steal-focus = false }"),
        ("idle", "after = { \"5m\" = \"close\", \"1h30m\" = \"quit\" }"),
        ("backdrop", "picture = { 6 = \"art/day.png\", 20 = \"art/night.png\" }"),
        ("backdrop", "picture = \"art\""),
        ("module.a", "press = { left = \"close\", wheel-up = \"layout next\" }"),
        ("bar.a", "sections = [{ weight = 2, show = [] }]"),
        ("keyboard.repeat", "after = \"250ms\""),
        ("layout.a", "widths = [\"1/3\", 400]"),
        ("palette.ebb", "term = []"),
    ];
    for (table, line) in good {
        let told = found(&checked(&format!("[{table}]\n{line}\n")));
        let wrong: Vec<&String> =
            told.iter().filter(|told| !told.starts_with("setting/not-yet") && !told.starts_with("rule/never")).collect();
        assert!(wrong.is_empty(), "[{table}] {line}: {wrong:?}");
    }
    let bad = [
        ("monitor.a", "mode = \"wide\"", "setting/type parts/a.toml:2:8"),
        ("monitor.a", "mode = \"1920x1080@fast\"", "setting/type parts/a.toml:2:8"),
        ("monitor.a", "at = \"beside main\"", "setting/type parts/a.toml:2:6"),
        ("monitor.a", "scale = 9", "setting/range parts/a.toml:2:9"),
        ("rule.a", "match = { app = \"re:(\" }", "setting/type parts/a.toml:2:21"),
        ("rule.a", "match = { kind = \"dialogue\" }", "setting/type parts/a.toml:2:18"),
        ("rule.a", "match = { titel = \"x\" }", "setting/unknown parts/a.toml:2:11"),
        ("rule.a", "set = { size = [1] }", "setting/type parts/a.toml:2:16"),
        ("rule.a", "set = { at = \"somewhere\" }", "setting/type parts/a.toml:2:14"),
        ("backdrop", "picture = { 24 = \"x\" }", "setting/type parts/a.toml:2:13"),
        ("module.a", "press = { left = \"clsoe\" }", "keys/unknown-action parts/a.toml:2:18"),
        ("module.a", "press = { top = \"close\" }", "setting/unknown parts/a.toml:2:11"),
        ("bar.a", "sections = [{ show = [\"moon\"] }]", "bar/no-module parts/a.toml:2:12"),
        ("idle", "after = { \"5\" = \"close\" }", "setting/type parts/a.toml:2:11"),
        ("idle", "after = { \"5m\" = \"clsoe\" }", "keys/unknown-action parts/a.toml:2:18"),
        ("palette.ebb", "term = [\"#000\"]", "setting/range parts/a.toml:2:8"),
        ("layout.a", "widths = [\"wide\"]", "setting/type parts/a.toml:2:11"),
        ("environment", "EDITOR = 3", "setting/type parts/a.toml:2:10"),
    ];
    for (table, line, place) in bad {
        let told = found(&checked(&format!("[{table}]\n{line}\n")));
        assert!(told.iter().any(|told| told == place), "[{table}] {line}: {told:?}");
    }
}

proptest! {
    #[test]
    fn a_colour_comes_back_from_oklch(r in 0..=255u8, g in 0..=255u8, b in 0..=255u8, a in 0..=255u8) {
        let colour = Colour { r, g, b, a };
        let values = colour.to_oklch();
        prop_assert!((0.0..=1.001).contains(&values[0]) && (0.0..0.4).contains(&values[1]) && (0.0..=1.0).contains(&values[2]));
        let back = Colour::of_oklch(values);
        let near = |a: u8, b: u8| a.abs_diff(b) <= 1;
        prop_assert!(near(back.r, r) && near(back.g, g) && near(back.b, b) && near(back.a, a), "{colour:?} {back:?}");
    }
}
