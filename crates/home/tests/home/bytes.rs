//! Oddly written rices: whatever is edited, every other byte stays.

use jovrik_core::check::{CheckedRice, Files, UnknownHost, check};
use jovrik_home::edit::{ListEdit, list, reset, set, set_all, toggle};
use jovrik_home::{EditPlan, Error};
use jovrik_schema::Tree;
use jovrik_text::Source;
use jovrik_toml::{Outline, bare};

/// Rices that TOML reads and that no scanner of lines would.
const ODD: [&str; 16] = [
    // Text that looks like headers, comments and settings.
    "[module.a]\ntext = '''\n[space]\nedge = 3\n# edge = 4\n'''\n\n[space]\nedge = 4 # [frame]\n\n[frame]\nwidth = 1\n",
    "[ bar . \"top\" ]\nthick = 30\nedge = 'bottom'\n",
    "[bar.\"a#b\"]\nthick = 31 # \"]\n\n[ space ]\n\tedge\t=\t5\t# tabs\n",
    "space.edge = 3\nframe.glow.width = 4\nspace . \"between\" = 8\n\n[type]\nsize = 11\n",
    "[frame]\nwidth = 2\nglow.width = 4\nglow.fill = \"@accent\"\n\n[space]\nedge = 1\n",
    "frame = { width = 2, glow = { width = 6, fill = '@accent' }, radius=4 }\nspace={edge=1}\n",
    "# CRLF\r\n[space]\r\nedge = 4 # wide\r\nbetween = 8\r\n\r\n[workspaces]\r\norder = [\r\n  \"a\", # first\r\n  \"b\"\r\n]\r\n",
    "\u{feff}[space]\nedge = 4\n\n[frame]\nwidth = 1\n",
    "\u{feff}space.edge = 4\r\nframe.width = 1\r\n[type]\r\nsize = 12",
    "[space]\n\t  edge = 4\n\t  between = 5",
    "[workspaces]\norder = [\n  \"a\", # the first\n  'b',\n  \"\"\"c\"\"\", '''d''',\n  # \"gone\",\n]\nlayouts = [ \"main\" , \"solo\" ]\n",
    "[workspaces]\norder = [\"a\",\"b\",'c' , \"\\u0064\"]# tight\n[space]\nedge=1#x\n",
    "[frame.glow]\nwidth = 3\n\n[frame]\nwidth = 1\n\n# About space.\n[space]\n",
    "# [space]\n# edge = 9\n\n[bar.side]\n# how thick\nthick = 40\n\n# The end.\n# [frame]\n# width = 3\n",
    "[keys.desk]\n\"Lead+x\" = { do = \"close\", note = \"a # b\" }\n'lead+SHIFT+y' = \"quit\"\n\"Lead+z\" = \"none\"\n[workspaces]\norder = [\"a\"]\n",
    "[place]\n[environment]\nA = \"\"\"\n[environment]\nB = 1\n\"\"\"\nC = ''\n\n\n\n[space]\nedge = 4\n\n\n",
];

fn files(text: &str) -> Files {
    let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
    files.add(Source::new("parts/a.toml", text));
    files
}

/// Every leaf: its path as typed, and the bytes of its value.
fn leaves(checked: &CheckedRice) -> Vec<(String, std::ops::Range<usize>)> {
    fn walk(tree: &Tree, path: &str, out: &mut Vec<(String, std::ops::Range<usize>)>) {
        match tree {
            Tree::Leaf(leaf) => out.push((path.to_owned(), leaf.node.span.range())),
            Tree::Branch(branch) => {
                branch.entries.iter().for_each(|(name, tree)| walk(tree, &format!("{path}.{}", bare(name)), out));
            }
        }
    }
    let mut out = Vec::new();
    checked.tree.entries.iter().for_each(|(name, tree)| walk(tree, name, &mut out));
    out
}

/// A value that a setting takes.
fn value_for(path: &str, nth: usize) -> String {
    let last = path.rsplit('.').next().unwrap_or_default();
    match last {
        "order" => ["[\"a\"]", "[\"a\", \"tide\"]"][nth % 2].to_owned(),
        "layouts" => ["[\"main\"]", "[\"solo\", \"grid\"]"][nth % 2].to_owned(),
        "edge" if path.starts_with("bar.") => ["left", "right"][nth % 2].to_owned(),
        "fill" => ["@calm", "#123456"][nth % 2].to_owned(),
        "text" | "A" | "B" | "C" => ["it's", "a \"b\"", "plain", "[space]\nedge = 1"][nth % 4].to_owned(),
        _ if path.starts_with("keys.") => ["reload", "focus next"][nth % 2].to_owned(),
        _ => (nth % 7 + 17).to_string(),
    }
}

fn the_text(planned: &EditPlan) -> String {
    assert!(planned.files.len() == 1 && planned.files.contains_key("parts/a.toml"), "{:?}", planned.files);
    planned.files["parts/a.toml"].clone()
}

/// The leaves of a rice, without one, or without those below one.
fn without(checked: &CheckedRice, path: &str) -> Vec<(String, String)> {
    let text = |bytes: std::ops::Range<usize>| {
        checked.sources.iter().last().and_then(|(_, source)| source.text.get(bytes)).unwrap_or_default().to_owned()
    };
    let kept = leaves(checked).into_iter().filter(|(own, _)| own != path && !own.starts_with(&format!("{path}.")));
    let mut kept: Vec<(String, String)> = kept.map(|(own, bytes)| (own, text(bytes))).collect();
    kept.sort();
    kept
}

/// The comments that stand on lines of their own.
fn comments(text: &str) -> Vec<String> {
    let outline = Outline::of(text);
    let alone = |bytes: &&std::ops::Range<usize>| {
        let line = text[..bytes.start].rfind('\n').map_or(0, |at| at + 1);
        text[line..bytes.start].trim_matches(['\u{feff}', ' ', '\t']).is_empty()
    };
    outline.comments.iter().filter(alone).map(|bytes| text[bytes.clone()].trim_end().to_owned()).collect()
}

fn read(text: &str) -> CheckedRice {
    check(files(text), &[], &UnknownHost)
}

#[track_caller]
fn set_keeps_the_rest(text: &str, path: &str, nth: usize) -> String {
    let value = value_for(path, nth);
    let before = read(text);
    let span = leaves(&before).into_iter().find(|(own, _)| own == path).map(|(_, span)| span);
    let planned = set(|| files(text), path, &value, None, &UnknownHost);
    assert!(planned.is_ok(), "{path} = {value}: {planned:?}\n{text}");
    let planned = planned.expect("set");
    if !planned.files.contains_key("parts/a.toml") {
        // It has no neighbours here: it got a file of its own.
        return text.to_owned();
    }
    let new = the_text(&planned);
    let leaf = leaves(&planned.after).into_iter().find(|(own, _)| own == path);
    assert!(leaf.is_some(), "what was written is read again: {path}\n{new}");
    match span {
        Some(span) => {
            assert_eq!(new[..span.start], text[..span.start], "{path}");
            assert!(new.ends_with(&text[span.end..]), "{path}: {new}");
        }
        None => {
            // Nothing but what was put in is new.
            let same = new.bytes().zip(text.bytes()).take_while(|(a, b)| a == b).count();
            let tail = new.bytes().rev().zip(text.bytes().rev()).take_while(|(a, b)| a == b).count();
            assert!(same + tail >= text.len() || new.replacen(',', "", 1).len() + 1 == new.len(), "{path}:\n{text}---\n{new}");
            assert_eq!(comments(&new), comments(text));
        }
    }
    new
}

#[track_caller]
fn reset_takes_just_that(text: &str, path: &str) -> String {
    let planned = reset(|| files(text), path, &UnknownHost);
    // What others name cannot go.
    if matches!(planned, Err(Error::Refused(_))) {
        return text.to_owned();
    }
    assert!(planned.is_ok(), "{path}: {planned:?}\n{text}");
    let planned = planned.expect("reset");
    let new = the_text(&planned);
    assert_eq!(without(&planned.after, "-"), without(&planned.before, path), "{path}:\n{text}---\n{new}");
    // Comments inside of what goes, such as those of a list of several lines, go with it.
    let gone = leaves(&planned.before).into_iter().filter(|(own, _)| own == path || own.starts_with(&format!("{path}.")));
    let inside: String = gone.map(|(_, bytes)| &text[bytes]).collect();
    let stays: Vec<String> = comments(text).into_iter().filter(|comment| !inside.contains(comment.as_str())).collect();
    let left: Vec<String> = comments(&new).into_iter().filter(|comment| !inside.contains(comment.as_str())).collect();
    assert_eq!(left, stays, "{path}");
    new
}

#[track_caller]
fn off_and_on_is_nothing(text: &str, path: &str, element: Option<&str>) {
    let off = match toggle(|| files(text), path, element, &UnknownHost) {
        Err(Error::Refused(_)) => return,
        Err(Error::Place(why)) => {
            let said = why.contains("stands in one line with others") || why.contains("no list that");
            assert!(said, "{path} {element:?}: {why}\n{text}");
            return;
        }
        other => other,
    };
    assert!(off.is_ok(), "{path}: {off:?}\n{text}");
    let off = the_text(&off.expect("off"));
    let on = toggle(|| files(&off), path, element, &UnknownHost);
    assert!(on.is_ok(), "{path} {element:?}: {on:?}\n{text}---\n{off}");
    let on = the_text(&on.expect("on"));
    assert_eq!(on, text, "{path} {element:?}, from:\n{off}");
}

/// The tables of a rice that hold something.
fn tables(checked: &CheckedRice) -> Vec<String> {
    let mut all: Vec<String> = leaves(checked)
        .into_iter()
        .filter_map(|(path, _)| path.rsplit_once('.').map(|(table, _)| table.to_owned()))
        .filter(|path| !path.contains('"'))
        .collect();
    all.sort();
    all.dedup();
    all
}

#[test]
fn every_path_of_oddly_written_rices_is_set_reset_and_toggled_alone() {
    for text in ODD {
        let checked = read(text);
        assert_eq!(checked.errors(), 0, "{:?}\n{text}", checked.problems);
        for (nth, (path, _)) in leaves(&checked).iter().enumerate() {
            set_keeps_the_rest(text, path, nth);
            reset_takes_just_that(text, path);
            off_and_on_is_nothing(text, path, None);
            if let Some(Tree::Leaf(leaf)) = checked.tree.get(&jovrik_toml::steps(path))
                && let jovrik_toml::TomlValue::Array(items) = &leaf.node.value
            {
                items.iter().filter_map(|item| item.text()).for_each(|item| off_and_on_is_nothing(text, path, Some(item)));
            }
        }
        for table in tables(&checked) {
            off_and_on_is_nothing(text, &table, None);
            reset_takes_just_that(text, &table);
        }
        for path in ["space.alone", "frame.radius", "frame.glow.width", "bar.low.thick", "type.text", "workspaces.order"] {
            set_keeps_the_rest(text, path, 1);
        }
    }
}

#[test]
fn thousands_of_edits_one_after_another_keep_every_other_byte() {
    let mut seed = 0x2545_f491_4f6c_dd1d_u64;
    let mut random = |below: usize| {
        seed ^= seed << 13;
        seed ^= seed >> 7;
        seed ^= seed << 17;
        (seed % below.max(1) as u64) as usize
    };
    let new = [
        "space.alone",
        "frame.radius",
        "frame.width",
        "frame.glow.width",
        "bar.low.thick",
        "space.between",
        "keys.desk.\"Super+F5\"",
    ];
    let mut edits = 0;
    while edits < 5000 {
        let mut text = ODD[random(ODD.len())].to_owned();
        for _ in 0..20 {
            edits += 1;
            let checked = read(&text);
            assert_eq!(checked.errors(), 0, "{:?}\n{text}", checked.problems);
            let all = leaves(&checked);
            let path = if all.is_empty() { new[0].to_owned() } else { all[random(all.len())].0.clone() };
            text = match random(8) {
                0 | 1 => set_keeps_the_rest(&text, &path, random(9)),
                2 | 3 => set_keeps_the_rest(&text, new[random(new.len())], random(9)),
                4 if !all.is_empty() => reset_takes_just_that(&text, &path),
                5 if !all.is_empty() => {
                    off_and_on_is_nothing(&text, &path, None);
                    text
                }
                6 if all.iter().any(|(path, _)| path == "workspaces.order") => {
                    let change = ListEdit::Add(format!("w{edits}"), Some(random(4)).filter(|place| *place > 0));
                    let planned = list(|| files(&text), "workspaces.order", &change, None, &UnknownHost).expect("added");
                    let added = the_text(&planned);
                    let back = ListEdit::Take(format!("w{edits}"));
                    let planned = list(|| files(&added), "workspaces.order", &back, None, &UnknownHost).expect("taken");
                    assert_eq!(comments(&added), comments(&text));
                    assert_eq!(planned.after.rice.workspaces.order, checked.rice.workspaces.order, "{text}---\n{added}");
                    text
                }
                _ => {
                    let table = tables(&checked);
                    if !table.is_empty() {
                        off_and_on_is_nothing(&text, &table[random(table.len())], None);
                    }
                    text
                }
            };
        }
    }
}

#[test]
fn several_settings_are_judged_together_and_those_of_the_manifest_are_written_there() {
    let text = "[workspaces]\norder = [\"a\", \"b\"]\n[keys.desk]\n\"Lead+b\" = \"go b\"\n";
    let pair = |path: &str, value: &str| (path.to_owned(), value.to_owned());
    let alone = set(|| files(text), "workspaces.order", "[\"a\", \"c\"]", None, &UnknownHost);
    assert!(matches!(alone, Err(Error::Refused(_))), "others name b");
    let pairs = [pair("workspaces.order", "[\"a\", \"c\"]"), pair("keys.desk.\"Lead+b\"", "go c")];
    let planned = set_all(|| files(text), &pairs, None, &UnknownHost).expect("together they fit");
    assert_eq!(the_text(&planned), text.replace("\"b\"", "\"c\"").replace("go b", "go c"));
    let fresh = [pair("bar.low.thick", "20"), pair("bar.low.edge", "bottom"), pair("frame.width", "3")];
    let planned = set_all(|| files(text), &fresh, None, &UnknownHost).expect("fine");
    let bar = &planned.files["parts/bar.toml"];
    assert_eq!((bar.as_str(), planned.files.len()), ("[bar.low]\nthick = 20\nedge = \"bottom\"\n", 2));
    let manifest =
        [pair("rice.version", "2.0.0"), pair("needs.programs", "[\"sluice\"]"), pair("check.allow", "[\"style/contrast\"]")];
    let planned = set_all(|| files(text), &manifest, None, &UnknownHost).expect("fine");
    assert_eq!(
        planned.files["rice.toml"],
        "[rice]\nname = \"x\"\nversion = \"2.0.0\"\n\n[needs]\nprograms = [\"sluice\"]\n\n[check]\nallow = [\"style/contrast\"]\n"
    );
    assert_eq!(planned.what(), "rice.toml: 3 settings");
    let more = list(|| files(text), "check.allow", &ListEdit::Add("keys/displaced".to_owned(), None), None, &UnknownHost);
    assert!(more.expect("added").files["rice.toml"].ends_with("[check]\nallow = [\"keys/displaced\"]\n"));
}

#[test]
fn a_newer_format_is_edited_by_nobody() {
    let newer = || {
        let mut files = files("[space]\nedge = 4\n");
        files.manifest = Some(Source::new("rice.toml", "[rice]\nname = \"x\"\nformat = 99\n"));
        files
    };
    let refused = |planned: Result<EditPlan, Error>| {
        let Err(Error::Refused(checked)) = planned else { panic!("it is refused: {planned:?}") };
        assert!(checked.problems.iter().any(|problem| problem.code == "file/newer-format"));
    };
    refused(set(newer, "space.edge", "5", None, &UnknownHost));
    refused(set(newer, "rice.name", "y", None, &UnknownHost));
    refused(toggle(newer, "space.edge", None, &UnknownHost));
    refused(reset(newer, "space.edge", &UnknownHost));
    refused(list(newer, "workspaces.order", &ListEdit::Add("x".to_owned(), None), None, &UnknownHost));
}
