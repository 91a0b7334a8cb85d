//! What programs print becomes values: lines, JSON, what is picked out of either; and how values are told.

use jovrik_values::{FieldSelectors, FieldValue, Grade, Grades, Values};
use proptest::prelude::*;

use crate::checked;

/// The picks of a module as they are written.
fn pick(text: &str) -> FieldSelectors {
    let rice = checked(&format!("[module.a]\nsource = {{ run = [\"sluice\"] }}\npick = {text}\n")).rice;
    rice.module["a"].pick.clone()
}

fn grades(text: &str) -> Grades {
    let part = format!("[module.a]\nsource = {{ run = [\"sluice\"] }}\npick = {{ level = \"line 1\" }}\ngrades = {text}\n");
    checked(&part).rice.module["a"].grades.clone()
}

/// What is known of an output, field by field.
fn known(output: &str, picks: &str) -> Vec<(String, String)> {
    let values = Values::of_output(output, &pick(picks)).expect("it is JSON where that is asked for");
    values.0.iter().map(|(name, field)| (name.clone(), field.plain())).collect()
}

fn one(name: &str, value: &str) -> (String, String) {
    (name.to_owned(), value.to_owned())
}

#[test]
fn by_itself_the_first_line_is_the_value() {
    assert_eq!(known("2.4 m\nmore of it\n", "{}"), [one("value", "2.4 m")]);
    assert_eq!(known("  2.4 m  \n", "{}"), [one("value", "2.4 m")]);
    assert_eq!(known("", "{}"), []);
    assert_eq!(known("\n\n2.4\n", "{}"), [], "an empty line is one");
}

#[test]
fn an_object_that_holds_one_thing_needs_nobody_to_pick_it() {
    assert_eq!(known("{ \"level\": 2.4 }", "{}"), [one("value", "2.4")]);
    assert_eq!(known("{ \"state\": \"ebb\", \"more\": { \"deep\": 1 } }", "{}"), [one("value", "ebb")]);
    let whole = "{ \"level\": 2.4, \"state\": \"ebb\" }";
    assert_eq!(known(whole, "{}"), [one("value", whole)], "of two nobody knows which");
}

#[test]
fn fields_are_picked_by_pointer_by_line_and_by_expression() {
    let json =
        "{ \"gauges\": [ { \"name\": \"four\", \"level\": 2.4, \"dry\": false }, { \"level\": [1, 2.5, 3] } ], \"a/b\": 1 }";
    let picks = "{ level = \"/gauges/0/level\", name = \"/gauges/0/name\", dry = \"/gauges/0/dry\", past = \"/gauges/1/level\", none = \"/gauges/7\", odd = \"/a~1b\" }";
    assert_eq!(
        known(json, picks),
        [one("level", "2.4"), one("name", "four"), one("dry", "false"), one("past", "3"), one("odd", "1")],
        "RFC 6901; a line of numbers is told by its last"
    );
    assert_eq!(known(json, "{ all = \"/gauges\" }"), [], "an object is no value");
    assert_eq!(known("a\n  b \nc\n", "{ second = \"line 2\", ninth = \"line 9\" }"), [one("second", "b"), one("value", "a")]);
    let by = "{ level = \"re:[0-9.]+\", state = \"re:ebb|flood\" }";
    assert_eq!(known("gauge 4: 2.4 m, ebb", by), [one("level", "4"), one("state", "ebb"), one("value", "gauge 4: 2.4 m, ebb")]);
    let broken = Values::of_output("not JSON", &pick("{ level = \"/level\" }"));
    assert!(broken.is_err_and(|error| !error.to_string().is_empty()));
}

#[test]
fn fields_are_told_as_a_person_would_write_them() {
    for (field, plain, number) in [
        (FieldValue::Number(3.0), "3", Some(3.0)),
        (FieldValue::Number(2.5), "2.5", Some(2.5)),
        (FieldValue::Number(-0.0), "0", Some(0.0)),
        (FieldValue::Text("ebb".to_owned()), "ebb", None),
        (FieldValue::Text("4.5".to_owned()), "4.5", Some(4.5)),
        (FieldValue::Past(vec![1.0, 2.0]), "2", Some(2.0)),
        (FieldValue::Past(Vec::new()), "", None),
    ] {
        assert_eq!(
            (field.plain().trim_start_matches('-'), field.number().map(f64::abs)),
            (plain, number.map(f64::abs)),
            "{field:?}"
        );
    }
}

#[test]
fn the_strongest_grade_that_holds_is_meant() {
    let grades = grades("{ active = \"level > 0\", warn = \"level >= 3\", urgent = \"level >= 4\" }");
    let grade = |level: f64| Values::one("level", FieldValue::Number(level)).grade(&grades);
    assert_eq!([0.0, 1.0, 3.0, 9.0].map(grade), [Grade::Plain, Grade::Active, Grade::Warn, Grade::Urgent]);
    assert_eq!(Values::default().grade(&grades), Grade::Plain, "what is not known has none");
    let states = [Grade::Plain, Grade::Active, Grade::Warn, Grade::Urgent].map(Grade::state);
    assert!(states[0].is_none() && states[1..].iter().all(Option::is_some), "{states:?}");
}

proptest! {
    #[test]
    fn whatever_a_program_prints_nothing_panics(output in "[ -~\\n\\t{}\\[\\]\"é]{0,200}") {
        for picks in ["{}", "{ a = \"line 1\" }", "{ a = \"line 7\", b = \"re:[0-9]+\" }", "{ a = \"/a\" }"] {
            match Values::of_output(&output, &pick(picks)) {
                Ok(values) => {
                    for field in values.0.values() {
                        prop_assert!(!field.plain().contains('\n'), "{field:?}");
                    }
                }
                Err(error) => prop_assert!(picks.contains('/') && !error.to_string().is_empty()),
            }
        }
    }

    #[test]
    fn a_number_in_json_is_that_number(level in -1e6..1e6f64) {
        let output = format!("{{ \"level\": {level}, \"other\": \"x\" }}");
        let values = Values::of_output(&output, &pick("{ level = \"/level\" }")).expect("JSON");
        let read = values.0.get("level").and_then(FieldValue::number).expect("a number");
        prop_assert!((read - level).abs() <= level.abs() * 1e-12, "{read}");
    }
}
