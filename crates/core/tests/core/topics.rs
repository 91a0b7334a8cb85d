use jovrik_core::rice::{Block, TOPICS, Topic};

use crate::checked;

#[test]
fn every_page_of_grammar_shows_only_what_a_rice_understands() {
    for topic in TOPICS {
        let page = topic.page();
        assert!(page.len() > 1, "{} says something", topic.name);
        for block in page {
            let Block::Code(code) = block else { continue };
            // Files of other programs are templates that can be filled.
            if topic.name == "templates" {
                let rice = checked("");
                assert!(jovrik_core::template::fill(code, &rice.tree, &rice.rice).is_ok(), "{code}");
                continue;
            }
            // What an overlay says of itself is no setting of a part.
            let code = code.split("\n[bar.top]").next().unwrap_or_default();
            if code.starts_with("[overlay]") {
                continue;
            }
            let wrong: Vec<String> = checked(code)
                .problems
                .iter()
                .filter(|problem| {
                    problem.code.starts_with("setting/")
                        || problem.code.starts_with("file/")
                        || problem.code.starts_with("module/unknown")
                })
                .map(|problem| problem.title.clone())
                .collect();
            assert!(wrong.is_empty(), "{}: {wrong:?}\n{code}", topic.name);
        }
    }
}

#[test]
fn pages_are_found_by_what_people_call_them() {
    let named = |word: &str| Topic::named(word).map(|topic| topic.name);
    for (word, name) in [
        ("text-patterns", "text-patterns"),
        ("format", "text-patterns"),
        ("match", "rules"),
        ("source", "sources"),
        ("chord", "chords"),
        ("when", "overlays"),
        ("colours", "values"),
        ("theme", "styles"),
        ("click", "press"),
    ] {
        assert_eq!(named(word), Some(name), "{word}");
    }
    assert_eq!(named("zork"), None);
}
