//! Settings found by the words that people use.

use jovrik_schema::catalogue::{
    KeySyntax, ReloadPolicy, SettingField, SettingShape, SettingTable, ValueConstraint, ValueType, each, find,
};
use jovrik_toml::path_of;

use super::{OverlayFile, Rice};

/// By so many points a setting must answer better than any other to be the one that is meant.
const CLEARLY: u32 = 60;

/// A setting that can be looked for.
#[derive(Debug, Clone)]
pub struct SearchableSetting {
    /// Its path; names of a person's own are `NAME`, `CHORD` or `FILE`.
    pub path: String,
    /// What it is.
    pub field: SettingField,
}

/// What stands under names of a person's own: its path, what it is, and what else it is called.
const NAMED: &[(&str, &str, &str)] = &[
    (
        "keys.desk.CHORD",
        "what a chord does",
        "hotkey, shortcut, keybinding, key binding, keyboard shortcut, bind, keybind, screenshot key, volume keys, scratchpad, dropdown terminal, brightness keys",
    ),
    ("keys.desk.modes.NAME.CHORD", "what a chord does in a mode", "key mode, binding mode, layer, resize mode"),
    ("keys.launcher.CHORD", "what a chord does while the launcher is open", "launcher keys, menu keys"),
    ("keys.NAME.CHORD", "what a chord does in another program", "other program keys, editor keys, multiplexer, multiplexer keys"),
    (
        "program.NAME",
        "a program, by the name that actions use: how it is started",
        "terminal, browser, editor, default program, default application, default terminal, command, app",
    ),
    (
        "environment.NAME",
        "a variable for everything the desk starts",
        "environment variable, env, variables, path variable, export",
    ),
    ("icons.NAME", "the icon of windows whose app fits this name", "app icon, window icon, program icon, icon"),
    (
        "place.FILE",
        "a file put into the home folder, and where it comes from",
        "dotfile, config file, symlink, home folder, other programs, template, xresources, theme other programs",
    ),
];

/// Every setting, those under names of a person's own among them, in the order of the catalogue.
pub fn all() -> Vec<SearchableSetting> {
    let mut all = Vec::new();
    each(Rice::CATALOGUE, &mut |path, field| all.push(SearchableSetting { path: path.to_owned(), field: *field }));
    each_named(Rice::CATALOGUE, &mut |path, help, kind| all.push(named(path, help, kind)));
    // What stands in tables in one line; of bindings those of the desk stand for all.
    let inner = |one: &SearchableSetting| {
        let SettingShape::One(kind) = one.field.shape else { return Vec::new() };
        if one.path.ends_with("CHORD") && one.path != "keys.desk.CHORD" {
            return Vec::new();
        }
        let takes = one.field.takes;
        kind.fields
            .iter()
            .map(|field| SearchableSetting { path: format!("{}.{}", one.path, field.name), field: field.setting(takes) })
            .collect()
    };
    all = all
        .into_iter()
        .flat_map(|one| {
            let inner = inner(&one);
            std::iter::once(one).chain(inner)
        })
        .collect();
    let order = |one: &SearchableSetting| Rice::CATALOGUE.fields.iter().position(|field| field.name == part(&one.path));
    all.sort_by_key(order);
    all
}

/// Calls `visit` for every value that stands under a name of a person's own, as a binding or a program does: the path with `CHORD`, `FILE` or
/// `NAME` at its end, the help of its table, and its type.
fn each_named(table: &'static SettingTable, visit: &mut dyn FnMut(&str, &'static str, &'static ValueType)) {
    fn walk(
        path: &mut Vec<&'static str>,
        help: &'static str,
        shape: SettingShape,
        visit: &mut dyn FnMut(&str, &'static str, &'static ValueType),
    ) {
        let mut inside = |names: KeySyntax, shape: SettingShape, path: &mut Vec<&'static str>| {
            path.push(match names {
                KeySyntax::Spelled(grammar) => grammar.placeholder,
                KeySyntax::Files => "FILE",
                KeySyntax::Chosen | KeySyntax::Elements => "NAME",
            });
            match shape {
                SettingShape::One(kind) => visit(&path.join("."), help, kind),
                _ => walk(path, help, shape, visit),
            }
            path.pop();
        };
        match shape {
            SettingShape::One(_) => {}
            SettingShape::Named(names, inner) => inside(names, *inner, path),
            SettingShape::Table(table) => {
                if let Some((names, shape)) = table.rest {
                    inside(names, *shape, path);
                }
                for field in table.fields {
                    path.push(field.name);
                    walk(path, field.help.trim(), field.shape, visit);
                    path.pop();
                }
            }
        }
    }
    walk(&mut Vec::new(), "", SettingShape::Table(table), visit);
}

fn named(path: &str, help: &'static str, kind: &'static ValueType) -> SearchableSetting {
    let (_, help, also) = NAMED.iter().find(|(own, ..)| *own == path).copied().unwrap_or(("", help, ""));
    let takes = if path.starts_with("environment") { ReloadPolicy::Login } else { ReloadPolicy::Immediate };
    let field = SettingField { name: "NAME", help, also, default: None, takes, example: None, shape: SettingShape::One(kind) };
    SearchableSetting { path: path.to_owned(), field }
}

fn part(path: &str) -> &str {
    path.split('.').next().unwrap_or_default()
}

/// How well a setting answers to words, all in small letters; in all and without what it is called as a
/// whole; nothing where one of them is not in it. `forgiving`: typing errors count, too.
fn score(path: &str, field: &SettingField, about: &str, words: &[String], forgiving: bool) -> Option<(u32, u32)> {
    let phrase = words.join(" ");
    let also: Vec<&str> = field.also.split(", ").filter(|also| !also.is_empty()).collect();
    let steps: Vec<String> = path.split(['.', '-']).map(stem).collect();
    let last: Vec<String> = path.rsplit('.').next().unwrap_or_default().split('-').map(stem).collect();
    let lists =
        |text: &str| text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).map(stem).collect::<Vec<_>>();
    let (help, about, others) = (lists(field.help), lists(about), lists(field.also));
    let allowed: Vec<String> = match field.shape {
        SettingShape::One(ValueType { allowed: ValueConstraint::OneOf(words), .. }) => {
            words.iter().flat_map(|word| lists(word)).collect()
        }
        _ => Vec::new(),
    };
    let one = |word: &String| -> Option<u32> {
        let stem = stem(word);
        let is = |own: &Vec<String>| own.contains(&stem);
        let places: [(bool, u32); 9] = [
            (path.eq_ignore_ascii_case(word), 100),
            (is(&last), 14),
            (is(&others), 13),
            (is(&steps), 10),
            (is(&about), 6),
            (is(&help), 6),
            (is(&allowed), 4),
            (path.to_lowercase().contains(word.as_str()), 4),
            (field.help.to_lowercase().contains(word.as_str()) || field.also.contains(word.as_str()), 3),
        ];
        let slip = || {
            [&steps, &others, &help, &allowed].iter().any(|list| list.iter().any(|own| jovrik_text::problem::is_slip(&stem, own)))
        };
        let sure = places.iter().filter(|(holds, _)| *holds).map(|(_, points)| *points).max();
        sure.or_else(|| (forgiving && slip()).then_some(2))
    };
    let points: u32 = words.iter().map(one).sum::<Option<u32>>()?;
    // What it is called as a whole counts most, and more the earlier it is named.
    let whole = also.iter().position(|also| *also == phrase || stem(also) == stem(&phrase));
    let named = last.len() == words.len() && words.iter().all(|word| last.contains(&stem(word)));
    let whole = whole.map_or(0, |at| 30 - (at as u32).min(10)) + if named { 8 } else { 0 };
    // What every rice has comes before what a person must name first.
    let plain = u32::from(!path.contains("NAME")) * 15;
    let points = points * 10 / words.len() as u32;
    Some((points + whole * 10 + plain, points))
}

/// A word without the ending that makes it many, in small letters.
fn stem(word: &str) -> String {
    let lower = word.to_lowercase();
    let one = lower.strip_suffix('s').filter(|one| one.len() > 2 && !one.ends_with('s')).unwrap_or(&lower);
    one.replace("colour", "color").replace("grey", "gray").replace("centre", "center")
}

/// The path that is meant by one that does not exist, where its words mean one setting: `border.width` is `frame.width`, and
/// `bar.top.height` is `bar.top.thick`. Nothing where they may mean several.
pub fn meant(path: &str) -> Option<String> {
    let steps = jovrik_toml::steps(path);
    if find(Rice::CATALOGUE, &steps).is_ok() {
        return None;
    }
    // A word of the trade for what stands in a table that is there.
    let (last, table) = steps.split_last()?;
    if let Ok(found) = find(Rice::CATALOGUE, table)
        && let SettingShape::Table(table_shape) = found.shape()
        && !table.is_empty()
    {
        let words = last.replace(['-', '_'], " ");
        let called = |field: &&SettingField| field.also.split(", ").any(|also| stem(also) == stem(&words));
        let of_it =
            |field: &&SettingField| field.also.split(", ").any(|also| also.split(' ').any(|word| stem(word) == stem(&words)));
        let only = |fits: &dyn Fn(&&SettingField) -> bool| {
            let mut all = table_shape.fields.iter().filter(fits);
            all.next().filter(|_| all.next().is_none())
        };
        let field = only(&called).or_else(|| only(&of_it))?;
        return Some(path_of(&[table, &[field.name.to_owned()]].concat()));
    }
    let words: Vec<String> =
        path.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).map(str::to_lowercase).collect();
    // What a person names is called so, as `terminal` is `program.terminal`.
    let phrase = words.join(" ");
    let named = NAMED.iter().any(|(.., also)| also.split(", ").any(|also| also == phrase));
    if words.is_empty() || named {
        return None;
    }
    let all = all();
    let of_none =
        all.iter().filter(|one| !one.path.contains("NAME") && !one.path.contains("CHORD") && !one.path.contains("FILE"));
    let mut found: Vec<(u32, &str)> =
        of_none.filter_map(|one| Some((score(&one.path, &one.field, "", &words, false)?.0, one.path.as_str()))).collect();
    found.sort_by_key(|(score, _)| std::cmp::Reverse(*score));
    let second = found.get(1).map_or(0, |(score, _)| *score);
    found.first().filter(|(score, _)| *score >= second + CLEARLY).map(|(_, path)| (*path).to_owned())
}

/// Those of some rows, each with its path and setting, that answer to words: best first, and only what comes near the best.
pub fn search<'r, T>(rows: &'r [T], words: &[String], of: impl Fn(&T) -> (&str, &SettingField)) -> Vec<&'r T> {
    let about = |path: &str| {
        let fields = Rice::CATALOGUE.fields.iter().chain(OverlayFile::CATALOGUE.fields);
        fields.into_iter().find(|field| field.name == part(path)).map_or("", |field| field.help)
    };
    let ranked = |forgiving: bool| {
        let one = |row: &'r T| {
            let (path, field) = of(row);
            Some((score(path, field, about(path), words, forgiving)?, path.matches('.').count(), row))
        };
        let mut found: Vec<_> = rows.iter().filter_map(one).collect();
        found.sort_by_key(|(score, depth, _)| (std::cmp::Reverse(score.0), *depth));
        found
    };
    let found = Some(ranked(false)).filter(|found| !found.is_empty()).unwrap_or_else(|| ranked(true));
    let best = found.iter().map(|((_, points), ..)| *points).max().unwrap_or_default();
    found.into_iter().filter(|((_, points), ..)| points * 2 >= best).map(|(.., row)| row).collect()
}
