use insta::assert_debug_snapshot;
use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_schema::{Colour, Length};
use jovrik_text::Source;
use jovrik_text::problem::{Problem, Severity};

use crate::{checked, checked_parts, found};

#[test]
fn an_empty_rice_has_defaults_and_no_problems() {
    let checked = checked("");
    assert_eq!(found(&checked), Vec::<String>::new());
    assert_eq!(checked.rice.space.between.0, 8);
    assert_eq!(checked.rice.frame.active, Colour::css("#74d4b1").expect("a colour").into());
    assert_eq!(checked.rice.workspaces.order.len(), 5);
}

#[test]
fn later_files_win_and_the_chain_is_kept() {
    let checked = checked_parts(&[("parts/a.toml", "[space]\nedge = 4\n"), ("parts/b.toml", "[space]\nedge = 20\n")]);
    assert_eq!(checked.rice.space.edge.0, 20);
    assert_eq!(found(&checked), ["setting/twice parts/a.toml:2:1"]);
    let leaf = checked.tree.get(&["space", "edge"]).and_then(|tree| tree.leaf()).expect("it is set");
    assert_eq!(checked.sources.place(leaf.node.span), "parts/b.toml:2");
    assert_eq!(leaf.over.iter().map(|(_, node)| checked.sources.place(node.span)).collect::<Vec<_>>(), ["parts/a.toml:2"]);
}

#[test]
fn the_same_value_twice_is_no_problem_and_lists_splice() {
    let parts = [
        ("parts/a.toml", "[workspaces]\norder = [\"one\"]\n[space]\nedge = 4\n"),
        ("parts/b.toml", "[space]\nedge = 4\n[workspaces]\norder = [\"...\", \"two\"]\n"),
    ];
    let checked = checked_parts(&parts);
    assert_eq!(found(&checked), Vec::<String>::new());
    assert_eq!(checked.rice.workspaces.order, ["one", "two"]);
}

#[test]
fn references_follow_and_loops_are_told_once() {
    let checked = checked("[space]\nedge = \"=space.between\"\nbetween = 20\nalone = \"=frame.width\"\n");
    assert_eq!(found(&checked), Vec::<String>::new());
    assert_eq!((checked.rice.space.edge.0, checked.rice.space.alone.0), (20, 2));
    let looped = crate::checked("[space]\nedge = \"=space.alone\"\nalone = \"=space.between\"\nbetween = \"=space.edge\"\n");
    assert_eq!(found(&looped), ["setting/loop parts/a.toml:3:9"]);
    assert_debug_snapshot!(looped.problems[0].marks[0].note, @r#""space.alone = space.between = space.edge = space.alone""#);
    let into = crate::checked("[frame]\nwidth = \"=space.edge\"\n[space]\nedge = \"=space.alone\"\nalone = \"=space.edge\"\n");
    assert_eq!(found(&into), ["setting/loop parts/a.toml:5:9"], "one that only leads into a loop is not blamed");
}

#[test]
fn a_loop_is_known_however_its_paths_are_quoted_and_a_long_chain_ends() {
    let quoted = checked("[type]\ntext = \"=\\\"type\\\".text\"\n");
    assert_eq!(found(&quoted), ["setting/loop parts/a.toml:2:8"]);
    let chain = |len: usize| {
        let mut chain = String::from("[type]\ntext = \"=module.m0.empty\"\n");
        for nth in 0..len {
            chain.push_str(&format!("[module.m{nth}]\nempty = \"=module.m{}.empty\"\n", nth + 1));
        }
        checked(&format!("{chain}[module.m{len}]\nempty = \"the end\"\n"))
    };
    let short = chain(20);
    assert_eq!((found(&short), short.rice.r#type.text.as_str()), (Vec::new(), "the end"));
    let long = chain(2000);
    assert!(long.problems.len() > 1900 && long.problems.iter().all(|problem| problem.code == "setting/loop"));
}

#[test]
fn a_reference_to_nothing_names_the_nearest() {
    let checked = checked("[space]\nedge = \"=space.betwen\"\n");
    assert_eq!(found(&checked), ["setting/unknown parts/a.toml:2:8"]);
    assert_eq!(checked.problems[0].fix.as_ref().expect("it is certain").writes, "=space.between");
    assert_eq!(checked.rice.space.edge.0, 12, "the default stands in");
}

#[test]
fn roles_take_the_palette_in_use_with_opacity() {
    let checked = checked("[palette]\nuse = \"dusk\"\n[palette.dusk]\naccent = \"#8090a0\"\n[frame]\nidle = \"@accent/50%\"\n");
    assert_eq!(found(&checked), Vec::<String>::new());
    assert_eq!(checked.rice.frame.idle, Colour { r: 128, g: 144, b: 160, a: 128 }.into());
    assert_eq!(found(&crate::checked("[palette]\nuse = \"dusk\"\n[palette.dust]\n")), ["palette/unknown parts/a.toml:2:7"]);
    assert_eq!(
        found(&crate::checked("[palette.dusk]\nink = \"@paper\"\n[palette]\nuse = \"dusk\"\n")),
        ["palette/no-role parts/a.toml:2:7"]
    );
}

#[test]
fn a_broken_file_hides_neither_the_others_nor_its_own_rest() {
    let checked =
        checked_parts(&[("parts/a.toml", "[space]\nedge = 1 2\nbetween = 900\n"), ("parts/b.toml", "[frame]\nwidht = 3\n")]);
    assert_eq!(
        found(&checked),
        ["file/not-toml parts/a.toml:2:8", "setting/range parts/a.toml:3:11", "setting/unknown parts/b.toml:2:1"]
    );
}

#[test]
fn toml_keys_that_stand_twice_are_both_seen() {
    let checked = checked("[keys.desk]\n\"Lead+q\" = \"close\"\n\"Lead+q\" = \"quit\"\n\n[space]\nedge = 4\nedge = 5\n");
    assert_eq!(found(&checked), ["keys/twice parts/a.toml:2:1", "setting/twice parts/a.toml:6:1"]);
    let marks = &checked.problems[0].marks;
    assert_eq!(checked.sources.slice(marks[1].span), "\"Lead+q\"");
    assert_eq!(checked.sources.place(marks[1].span), "parts/a.toml:3");
}

#[test]
fn a_table_that_is_opened_twice_is_said_in_words() {
    let checked = checked("[space]\nedge = 400\n\n[frame]\nwidth = 2\n\n[space] # more\nbetween = 6\n");
    assert_eq!(found(&checked), ["file/not-toml parts/a.toml:1:1", "setting/range parts/a.toml:2:8"], "nothing else is hidden");
    assert_eq!(checked.problems[0].title, "[space] is opened twice in one file");
    assert_eq!(checked.sources.place(checked.problems[0].marks[1].span), "parts/a.toml:7");
}

#[test]
fn every_wrong_type_is_told_at_its_place_and_nothing_panics() {
    let values = [
        "\"x\"",
        "-1",
        "1e400",
        "9223372036854775807",
        "true",
        "[]",
        "[[]]",
        "{}",
        "{ a = 1 }",
        "1979-05-27",
        "nan",
        "\"=x\"",
        "\"@x\"",
        "\"\"",
    ];
    let mut paths = Vec::new();
    jovrik_schema::catalogue::each(jovrik_core::rice::Rice::CATALOGUE, &mut |path, _| paths.push(path.replace("NAME", "n")));
    assert!(paths.len() > 50, "{}", paths.len());
    for path in &paths {
        for value in values {
            let checked = checked(&format!("{path} = {value}\n"));
            for problem in &checked.problems {
                assert!(!problem.marks.is_empty(), "{path} = {value}: {problem:?}");
            }
        }
    }
}

#[test]
fn durations_need_a_unit_and_lengths_know_three_ways() {
    let checked = checked(
        "[module.c]\nsource = { kind = \"cpu\", every = 2 }\n[layout.a]\nshare = \"1/3\"\n[layout.b]\nshare = \"40%\"\n[layout.c]\nshare = 300\n",
    );
    assert_eq!(found(&checked), ["setting/type parts/a.toml:2:34"]);
    assert!(checked.problems[0].marks[0].note.contains("\"2s\" for seconds"));
    let share = |name: &str| checked.rice.layout[name].share;
    assert_eq!((share("a").of(900), share("b").of(1000), share("c")), (300, 400, Length::Px(300)));
}

#[test]
fn a_newer_format_is_the_only_thing_that_is_said() {
    let manifest = "[rice]\nname = \"x\"\nformat = 2\nfuture = true\n";
    let files = Files {
        manifest: Some(Source::new("rice.toml", manifest)),
        parts: vec![Source::new("parts/a.toml", "new = [")],
        ..Files::default()
    };
    let checked = check(files, &[], &UnknownHost);
    assert_eq!(found(&checked), ["file/newer-format rice.toml:3:10"]);
}

#[test]
fn nesting_ten_thousand_deep_is_an_error_and_no_crash() {
    let deep = format!("a = {}{}\n", "[".repeat(10_000), "]".repeat(10_000));
    let checked = checked(&deep);
    assert!(checked.errors() > 0);
    let tables = format!("[{}a]\nb = 1\n", "a.".repeat(10_000));
    assert!(crate::checked(&tables).errors() > 0);
    let inline = format!("a = {}1{}\n", "{ a = ".repeat(10_000), " }".repeat(10_000));
    assert!(crate::checked(&inline).errors() > 0);
}

#[test]
fn references_are_followed_inside_lists_and_values_that_are_one() {
    let text = "[workspaces]\norder = [\"charts\", \"=type.icon\"]\n[type]\nicon = \"logs\"\n[module.a]\nempty = \"7s\"\n\
        source = { kind = \"cpu\", every = \"=module.a.empty\" }\ntext = \"{load}\"\n[program]\nx = { run = [\"tidechart\", \"==verbatim\"] }\n";
    let told = checked(text);
    assert_eq!(found(&told), Vec::<String>::new());
    assert_eq!(told.rice.workspaces.order, ["charts", "logs"]);
    assert_eq!(told.rice.module["a"].source.every.0, std::time::Duration::from_secs(7));
    assert_eq!(told.rice.program["x"].run, ["tidechart", "=verbatim"], "a text that begins with = doubles it");
    let wrong = checked("[program]\nx = { run = [\"=type.txet\"] }\ny = { run = [\"=space.edge\"] }\n");
    assert_eq!(found(&wrong), ["setting/unknown parts/a.toml:2:14", "setting/type parts/a.toml:3:14"]);
    assert!(wrong.problems[0].fix.is_some());
    let looped =
        checked("[space]\nedge = \"=space.alone\"\nalone = \"=space.edge\"\n[program]\nx = { run = [\"=space.edge\"] }\n");
    assert!(found(&looped).contains(&"setting/loop parts/a.toml:5:14".to_owned()), "{:?}", found(&looped));
}

#[test]
fn a_value_that_is_read_at_a_glance_is_what_the_grammar_says() {
    use jovrik_text::{FileId, Source};
    use jovrik_toml::{parse, parse_value};
    let texts = [
        "0",
        "7",
        "42",
        "007",
        "+1",
        "-1",
        "1_000",
        "1e3",
        "0x1f",
        "999999999999999999999",
        "true",
        "false",
        "True",
        "[]",
        "{}",
        "[ ]",
        "\"\"",
        "\"plain @accent/40%\"",
        "\"a\\tb\"",
        "\"\"\"\"\"\"",
        "\"\"\"x\"\"\"",
        "\"a\" # b\"",
        "\"a\", \"b\"",
        "'x'",
        "\"é\"",
        "\"",
        "",
        " 1",
        "1 ",
        "1979-05-27",
    ];
    for text in texts {
        let (source, mut problems) = (Source::new("a", format!("x = {text}")), Vec::new());
        let whole = parse(FileId(0), &source, &mut problems);
        let whole = whole.first().map(|(_, node)| node.to_toml()).filter(|_| problems.is_empty());
        assert_eq!(parse_value(text).map(|node| node.to_toml()), whole, "{text}");
    }
}

#[test]
fn what_is_wrong_inside_of_a_text_is_marked_there() {
    let marked = |part: &str| -> Vec<String> {
        let checked = checked(part);
        let problems = checked.problems.iter().filter(|problem| problem.severity == Severity::Error);
        let mark = |problem: &Problem| {
            let mark = &problem.marks[0];
            format!("{} | {}", &part[mark.span.range()], mark.note)
        };
        problems.map(mark).collect()
    };
    for (part, expected) in [
        ("[rule.a]\nmatch = { app = \"re:^(ab\" }\nset = { float = true }\n", "( | no regular expression: unclosed group"),
        (
            "[rule.a]\nmatch = { title = 're:x[z-a]' }\nset = { float = true }\n",
            "z-a | no regular expression: invalid character class range, the start must be <= the end",
        ),
        // With escapes it is marked whole.
        (
            "[rule.a]\nmatch = { app = \"re:\\t(\" }\nset = { float = true }\n",
            "\"re:\\t(\" | no regular expression: unclosed group",
        ),
        (
            "[module.a]\nsource = { run = [\"x\"] }\npick = { l = \"re:*\" }\n",
            "* | no regular expression: repetition operator missing expression",
        ),
        ("[module.a]\ntext = \"a {load\"\n", "{ | "),
        ("[module.a]\ntext = \"a {load:wide} b\"\n", "wide | "),
        ("[module.a]\ntext = \"} b\"\n", "} | "),
        ("[module.a]\ntext = \"b {:.1}\"\n", "{:.1} | "),
    ] {
        let told = marked(part);
        assert!(told.iter().any(|told| told.starts_with(expected)), "{part}: {told:?}");
    }
}

#[test]
fn all_that_is_wrong_with_one_value_is_told_at_once() {
    let told = |text: &str| -> Vec<String> {
        let checked = checked(text);
        let place = |problem: &jovrik_text::problem::Problem| {
            let mark = problem.marks.first().expect("a place");
            format!("{} {}", problem.code, checked.sources.slice(mark.span))
        };
        checked.problems.iter().map(place).collect()
    };
    assert_eq!(told("[workspaces]\norder = [1, \"a\", 2]\n"), ["setting/type 1", "setting/type 2"]);
    assert_eq!(
        told("[program]\nx = { rnu = [\"x\"], env = { A = 1 }, icn = \"x\" }\n"),
        ["setting/unknown rnu", "setting/unknown icn"]
    );
    assert_eq!(
        told("[keys.desk]\n\"Lead+C\" = \"opn terminal\"\n\"Foo+x\" = [\"clsoe\", \"quit\", \"mvoe left\"]\n")[..4],
        [
            "keys/capital \"Lead+C\"",
            "keys/unknown-action \"opn terminal\"",
            "keys/no-key \"Foo+x\"",
            "keys/unknown-action \"clsoe\""
        ]
    );
    // Errors first, wherever they stand; what lacks only its quotes is told with them.
    let checked = checked("[bar.top]\nthick = 3\nthick = 4\n[workspace.a]\n[workspaces]\norder = [7]\n");
    assert!(checked.problems.is_sorted_by_key(|problem| problem.severity));
    let fixes: Vec<_> = checked.problems.iter().filter_map(|problem| problem.fix.clone()).collect();
    assert!(fixes.iter().any(|fix| fix.edits[0].text == "\"7\""), "{fixes:?}");
}
