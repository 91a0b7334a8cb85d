//! Files that a rice carries, filled with its values.

use jovrik_core::template::{UnresolvedPlaceholder, fill};
use proptest::prelude::*;

use crate::{checked, found};

const RICE: &str = "[palette.ebb]\naccent = \"#5fb8c9\"\n[palette]\nuse = \"ebb\"\n[space]\nbetween = 9\n\
[backdrop]\nfill = \"linear-gradient(160deg, @accent, #102030 40%, @accent/50%)\"\nline = \"@accent/50%\"\n\
[type]\ntext = \"Low Water\"\nsize = 12\n[module.at]\ntext = \"@home\"\n[module.like]\ntext = \"=module.at.text\"\n\
[workspaces]\norder = [\"charts\", \"logs\"]\n";

fn filled(template: &str) -> Result<String, Vec<UnresolvedPlaceholder>> {
    let checked = checked(RICE);
    let problems = found(&checked);
    assert!(!problems.iter().any(|problem| problem.starts_with("setting") || problem.starts_with("value")), "{problems:?}");
    fill(template, &checked.tree, &checked.rice)
}

fn text(template: &str) -> String {
    filled(template).expect("all of it is there")
}

#[test]
fn settings_and_colours_stand_where_their_names_stood() {
    assert_eq!(text("gap = {{space.between}};"), "gap = 9;");
    assert_eq!(text("{{ type.text }}, {{type.size}}"), "Low Water, 12", "a text has no quotes, and room does not matter");
    assert_eq!(text("{{workspaces.order}}"), "[\"charts\", \"logs\"]", "a list is written as in a rice");
    assert_eq!(text("{{@accent}} {{ @accent }}"), "#5fb8c9 #5fb8c9");
    assert_eq!(text("no holes, } and {"), "no holes, } and {");
    assert_eq!(text(""), "");
    // What is not set has its default.
    assert_eq!(text("{{space.edge}}"), checked("").rice.space.edge.0.to_string());
}

#[test]
fn roles_are_colours_wherever_they_stand_in_a_value() {
    assert_eq!(text("{{@accent/50%}}"), "#5fb8c980");
    assert_eq!(text("{{backdrop.line}}"), "#5fb8c980", "a setting that is a role with an opacity");
    assert_eq!(text("{{backdrop.fill}}"), "linear-gradient(160deg, #5fb8c9, #102030 40%, #5fb8c980)");
    // A text that only looks like one stays what it is, also where another setting takes it over.
    assert_eq!(text("{{module.at.text}} {{module.like.text}}"), "@home @home");
}

#[test]
fn a_colour_is_written_as_the_other_program_reads_it() {
    use jovrik_core::template::COLOUR_FORMS;
    // The table says what each form makes: of the same colour it does.
    let checked = checked(&RICE.replace("#5fb8c9", "#102030"));
    for form in COLOUR_FORMS {
        let role = if form.has_opacity() { "@accent/50% " } else { "@accent" };
        let made = fill(&format!("<{{{{{role} {} }}}}>", form.name), &checked.tree, &checked.rice);
        assert_eq!(made, Ok(format!("<{}>", form.example)), "{}", form.name);
    }
    assert_eq!(text("{{backdrop.line rgba()}}"), "rgba(95, 184, 201, 0.5)", "also of a setting that is a colour");
    assert_eq!(text("{{@term6}} {{@term6/50% 0xaarrggbb}}"), "#5fb8c9 0x805fb8c9", "the colours of a terminal");
    assert_eq!(text("{{\"{{\"}}x}}"), "{{x}}", "braces that are meant");
    assert_eq!(
        jovrik_core::template::holes("{{\"{{\"}} {{frame.width}} {{backdrop.line rrggbb}}"),
        ["frame.width", "backdrop.line"]
    );
    for bad in ["{{@accent hex}}", "{{space.between rrggbb}}", "{{backdrop.fill rrggbb}}", "{{@term16}}", "{{\"}}", "{{\"x}}"] {
        assert!(filled(bad).is_err(), "{bad}");
    }
}

#[test]
fn what_cannot_be_filled_is_named_with_its_place_and_nothing_is_filled_by_half() {
    let wrong = filled("a {{space.betwen}} b {{space.between}} c {{@acent}} d {{").expect_err("three of them");
    let said: Vec<(usize, String)> = wrong.iter().map(|one| (one.at, one.to_string())).collect();
    let expected = [
        (2, "{{space.betwen}} names no setting and no colour of the palette"),
        (41, "{{@acent}} names no setting and no colour of the palette"),
        (54, "a {{ is not closed by }}"),
    ];
    assert_eq!(said, expected.map(|(at, text)| (at, text.to_owned())));
    for bad in [
        "{{}}",
        "{{ }}",
        "{{@}}",
        "{{@accent/}}",
        "{{@accent/150%}}",
        "{{@accent/x%}}",
        "{{space}}",
        "{{=space.between}}",
        "{{{{}}",
    ] {
        assert!(filled(bad).is_err(), "{bad}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    /// Whatever text comes, it is filled or refused with places inside of it, and what has no holes stays as it is.
    #[test]
    fn whatever_comes_is_filled_or_refused(pieces in prop::collection::vec(prop_oneof![
        Just("{{".to_owned()), Just("}}".to_owned()), Just("@accent".to_owned()), Just("space.between".to_owned()),
        Just("\u{2026}".to_owned()), "[a-z{}@/%. ]{0,6}",
    ], 0..12)) {
        let template = pieces.concat();
        match filled(&template) {
            Ok(text) if !template.contains("{{") => prop_assert_eq!(text, template),
            Ok(_) => {}
            Err(wrong) => {
                prop_assert!(!wrong.is_empty());
                for one in wrong {
                    prop_assert!(template[one.at..].starts_with("{{"), "{} of {template:?}", one.at);
                }
            }
        }
    }
}
