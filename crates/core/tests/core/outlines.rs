//! The outline of a file: every header, key, value and comment of what was written, whatever is in its texts; of anything at all,
//! bytes that are there.

use jovrik_text::{FileId, Source};
use jovrik_toml::{Outline, SpannedValue, TomlValue, apply_edits, parse, remove, replace};
use proptest::prelude::*;

/// What a value is written as, and the entries in it, each with its keys below that of the value.
#[derive(Debug, Clone)]
struct Written {
    text: String,
    inner: Vec<(Vec<String>, String)>,
    comments: Vec<String>,
}

/// An assignment: its key as it is written and as it is meant, its value, and what is said behind it.
#[derive(Debug, Clone)]
struct Line {
    keys: Vec<(String, String)>,
    value: Written,
    comment: Option<String>,
    indent: usize,
}

/// Assignments below a header, or at the top.
#[derive(Debug, Clone)]
struct Block {
    header: Vec<(String, String)>,
    above: Option<String>,
    lines: Vec<Line>,
}

fn plain(text: String) -> Written {
    Written { text, inner: Vec::new(), comments: Vec::new() }
}

fn comment() -> impl Strategy<Value = String> {
    // What looks like something else.
    prop_oneof![
        "# [a-z =\\[\\]\"'#{},.]{0,12}",
        Just("# [space]".to_owned()),
        Just("# edge = 3".to_owned()),
        Just("#\"\"\"".to_owned()),
    ]
}

fn scalar() -> impl Strategy<Value = Written> {
    let text = prop_oneof![
        (0i32..9999).prop_map(|number| number.to_string()),
        Just("true".to_owned()),
        Just("0x1f".to_owned()),
        Just("-1.5e3".to_owned()),
        Just("2026-11-27T20:00:00Z".to_owned()),
        "\"[a-z#=\\[\\]{}', é→]{0,10}\"",
        "'[a-z#=\\[\\]{}\", é→\\\\]{0,10}'",
        Just("\"a \\\" # \\\\\"".to_owned()),
        "\"\"\"\n?[a-z#=\\[\\]' \n]{0,14}\"\"\"",
        "'''\n?[a-z#=\\[\\]\" \n]{0,14}'''",
    ];
    text.prop_map(plain)
}

/// A value; in tables on one line nothing is longer than that.
fn value() -> impl Strategy<Value = Written> {
    let inner = scalar().prop_recursive(3, 16, 4, |inner| {
        let list = (prop::collection::vec((inner.clone(), prop::option::of(comment())), 0..4), any::<bool>()).prop_map(
            |(items, lines)| {
                let (mut text, mut comments) = ("[".to_owned(), Vec::new());
                for (nth, (item, comment)) in items.into_iter().enumerate() {
                    text.push_str(if lines {
                        "\n  "
                    } else if nth > 0 {
                        " "
                    } else {
                        ""
                    });
                    text.push_str(&item.text);
                    text.push(',');
                    comments.extend(item.comments);
                    if let Some(comment) = comment.filter(|_| lines) {
                        text.push_str(&format!(" {comment}"));
                        comments.push(comment);
                    }
                }
                text.push_str(if lines { "\n]" } else { "]" });
                Written { text, inner: Vec::new(), comments }
            },
        );
        let table =
            prop::collection::vec(inner.prop_filter("one line", |one| !one.text.contains('\n')), 0..4).prop_map(|items| {
                let (mut text, mut within, mut comments) = (String::new(), Vec::new(), Vec::new());
                for (nth, item) in items.into_iter().enumerate() {
                    text.push_str(if nth > 0 { ", " } else { " " });
                    text.push_str(&format!("i{nth} = {}", item.text));
                    let own = vec![format!("i{nth}")];
                    within.push((own.clone(), item.text.clone()));
                    within.extend(item.inner.into_iter().map(|(keys, text)| ([own.clone(), keys].concat(), text)));
                    comments.extend(item.comments);
                }
                Written { text: format!("{{{text} }}"), inner: within, comments }
            });
        prop_oneof![list, table]
    });
    // To what stands in tables of a list no path leads: that is tried elsewhere.
    inner.prop_filter("no tables in lists", |written| {
        !written.text.contains("[{") && !written.text.contains("  {") && !written.text.contains(", {")
    })
}

fn blocks() -> impl Strategy<Value = Vec<Block>> {
    let line = (0..4u8, value(), prop::option::of(comment()), 0..3usize);
    let block = (prop::option::of(comment()), prop::collection::vec(line, 0..4), 0..3u8);
    prop::collection::vec(block, 1..5).prop_map(|blocks| {
        let mut count = 0;
        // Every key has a number of its own: nothing stands twice.
        let mut key = |how: u8| {
            count += 1;
            match how {
                0 => (format!("k{count}"), format!("k{count}")),
                1 => (format!("\"q {count}#\""), format!("q {count}#")),
                _ => (format!("'l{count}].='"), format!("l{count}].=")),
            }
        };
        let mut all = Vec::new();
        for (nth, (above, lines, deep)) in blocks.into_iter().enumerate() {
            let header = if nth == 0 { Vec::new() } else { (0..=deep).map(&mut key).collect() };
            let lines = lines.into_iter().map(|(how, value, comment, indent)| {
                let keys = if how == 3 { vec![key(0), key(1)] } else { vec![key(how)] };
                Line { keys, value, comment, indent }
            });
            let lines = lines.collect();
            all.push(Block { header, above, lines });
        }
        all
    })
}

fn written(keys: &[(String, String)]) -> String {
    keys.iter().map(|(raw, _)| raw.as_str()).collect::<Vec<_>>().join(".")
}

fn meant(keys: &[(String, String)]) -> Vec<String> {
    keys.iter().map(|(_, meant)| meant.clone()).collect()
}

/// A text, with all that its outline has.
#[derive(Debug, Default)]
struct Wanted {
    text: String,
    headers: Vec<Vec<String>>,
    entries: Vec<(Vec<String>, String)>,
    comments: Vec<String>,
}

fn file(blocks: &[Block]) -> Wanted {
    let Wanted { mut text, mut headers, mut entries, mut comments } = Wanted::default();
    for block in blocks {
        if let Some(comment) = &block.above {
            text.push_str(&format!("{comment}\n"));
            comments.push(comment.clone());
        }
        if !block.header.is_empty() {
            text.push_str(&format!("[{}]\n", written(&block.header)));
            headers.push(meant(&block.header));
        }
        for line in &block.lines {
            let path = [meant(&block.header), meant(&line.keys)].concat();
            text.push_str(&format!("{}{} = {}", " ".repeat(line.indent), written(&line.keys), line.value.text));
            entries.push((path.clone(), line.value.text.clone()));
            entries.extend(line.value.inner.iter().map(|(keys, text)| ([path.clone(), keys.clone()].concat(), text.clone())));
            comments.extend(line.value.comments.iter().cloned());
            if let Some(comment) = &line.comment {
                text.push_str(&format!("  {comment}"));
                comments.push(comment.clone());
            }
            text.push('\n');
        }
    }
    Wanted { text, headers, entries, comments }
}

/// All values of a tree, with their paths.
fn leaves(path: &[String], entries: &[(String, SpannedValue)], all: &mut Vec<(Vec<String>, SpannedValue)>) {
    for (name, node) in entries {
        let own = [path, std::slice::from_ref(name)].concat();
        match &node.value {
            TomlValue::Table(inner) => leaves(&own, inner, all),
            _ => all.push((own, node.clone())),
        }
    }
}

fn values(text: &str) -> Vec<(Vec<String>, SpannedValue)> {
    let (mut problems, mut all) = (Vec::new(), Vec::new());
    leaves(&[], &parse(FileId(0), &Source::new("parts/a.toml", text), &mut problems), &mut all);
    assert_eq!(problems, Vec::new(), "{text}");
    all
}

/// What values say, without their places.
fn said(all: &[(Vec<String>, SpannedValue)], but: &[String]) -> Vec<(Vec<String>, String)> {
    all.iter().filter(|(path, _)| path != but).map(|(path, node)| (path.clone(), node.to_toml())).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn an_outline_has_all_that_is_written_and_nothing_else(blocks in blocks()) {
        let Wanted { text, headers, entries, comments } = file(&blocks);
        let outline = Outline::of(&text);
        let own: Vec<Vec<String>> = outline.headers.iter().map(|header| header.path.clone()).collect();
        prop_assert_eq!(own, headers, "{}", text);
        let own: Vec<(Vec<String>, String)> =
            outline.entries.iter().map(|entry| (entry.path.clone(), text[entry.value.clone()].to_owned())).collect();
        prop_assert_eq!(own, entries, "{}", text);
        let own: Vec<String> = outline.comments.iter().map(|bytes| text[bytes.clone()].trim_end().to_owned()).collect();
        let wanted: Vec<String> = comments.iter().map(|comment| comment.trim_end().to_owned()).collect();
        prop_assert_eq!(own, wanted, "{}", text);
        // Each value that is read is one of them, at the same path.
        for (path, node) in values(&text) {
            let entry = outline.of_value(node.span.start as usize);
            prop_assert_eq!(entry.map(|entry| &entry.path), Some(&path), "{}", text);
        }
        for entry in &outline.entries {
            prop_assert_eq!(outline.of_key(entry.key_bytes().start), Some(entry));
        }
    }

    #[test]
    fn one_value_is_taken_out_or_written_anew_and_all_others_stay(blocks in blocks(), which in any::<prop::sample::Index>()) {
        let Wanted { text, .. } = file(&blocks);
        let all = values(&text);
        prop_assume!(!all.is_empty());
        let (path, node) = &all[which.index(all.len())];
        let source = Source::new("parts/a.toml", text.as_str());
        if let Some(edit) = remove(&source, node) {
            let after = apply_edits(&text, &[edit]);
            prop_assert_eq!(said(&values(&after), &[]), said(&all, path), "{}\nwithout {:?}:\n{}", text, path, after);
        }
        let after = apply_edits(&text, &[replace(&source, node, "4711")]);
        let all_after = values(&after);
        prop_assert_eq!(said(&all_after, path), said(&all, path), "{}\nwith another {:?}:\n{}", text, path, after);
        let own = all_after.iter().find(|(own, _)| own == path).map(|(_, node)| node.to_toml());
        prop_assert_eq!(own.as_deref(), Some("4711"));
    }

    #[test]
    fn of_anything_at_all_the_outline_has_bytes_that_are_there(
        blocks in blocks(),
        junk in "[a-z\\[\\]{}=#,.'\" \né→]{0,30}",
        at in any::<prop::sample::Index>(),
        end in any::<prop::sample::Index>(),
    ) {
        let Wanted { text, .. } = file(&blocks);
        let place = |index: &prop::sample::Index| {
            let at = index.index(text.len() + 1);
            (0..=at).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0)
        };
        let (from, to) = (place(&at).min(place(&end)), place(&at).max(place(&end)));
        let text = format!("{}{junk}{}", &text[..from], &text[to..]);
        let outline = Outline::of(&text);
        for header in &outline.headers {
            prop_assert!(text.get(header.bytes.clone()).is_some_and(|bytes| bytes.starts_with('[')), "a header of {}: {:?}", text, outline);
        }
        for entry in &outline.entries {
            prop_assert!(text.get(entry.key_bytes()).is_some() && text.get(entry.value.clone()).is_some(), "keys or a value of {}: {:?}", text, outline);
            prop_assert!(entry.key_bytes().end <= entry.value.start && entry.value.start <= entry.value.end, "an order of key and value of {}: {:?}", text, outline);
            prop_assert!(entry.section.is_none_or(|section| section < outline.headers.len()));
        }
        prop_assert!(outline.entries.is_sorted_by_key(|entry| entry.key_bytes().start), "an order of {}: {:?}", text, outline);
        for comment in &outline.comments {
            prop_assert!(text.get(comment.clone()).is_some_and(|bytes| bytes.starts_with('#')), "a comment of {}: {:?}", text, outline);
        }
        prop_assert!(outline.commas.iter().all(|comma| text.as_bytes().get(*comma) == Some(&b',')), "a comma of {}: {:?}", text, outline);
    }
}
