//! `jovrik settings`

use jovrik_core::check::CheckedRice;
use jovrik_core::rice::{OverlayFile, Rice, SearchableSetting, all_settings, built_in_style, search};
use jovrik_core::style::{ELEMENTS, Element};
use jovrik_schema::Tree;
use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, SettingField, SettingShape, ValueConstraint, each};
use jovrik_text::problem::{count, in_words};
use jovrik_text::shell_line;
use jovrik_toml::{SpannedValue, bare, parse_value, steps};

use crate::context::Context;
use crate::examples;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, advise, columns, wrap};

/// Find a setting by words of its path, help or values; one path shows it in full
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Words that it must hold, typing errors forgiven; or one path
    #[arg(add = crate::complete::setting())]
    pub words: Vec<String>,
    /// Only the settings of one part, such as bar
    #[arg(long, value_name = "PART", add = crate::complete::part())]
    pub part: Option<String>,
    /// Only what this rice sets differently from the default
    #[arg(long)]
    pub changed: bool,
    /// JSON Lines: path, help, type, unit, allowed, default, value, place, example, takes
    #[arg(long)]
    pub json: bool,
}

/// A setting of the catalogue, or one that a rice sets under a name of its own.
struct CatalogueRow {
    path: String,
    field: SettingField,
    /// What the rice says, and where.
    set: Option<(String, String)>,
}

impl CatalogueRow {
    fn value(&self) -> String {
        let set = self.set.as_ref().map(|(value, _)| value.clone());
        set.or_else(|| self.field.default.map(str::to_owned)).unwrap_or_default()
    }

    fn changed(&self) -> bool {
        self.set.as_ref().is_some_and(|(value, _)| Some(value.as_str()) != self.field.default)
    }

    fn help(&self) -> &'static str {
        self.field.help.trim()
    }

    fn part(&self) -> &str {
        self.path.split('.').next().unwrap_or_default()
    }
}

fn allowed(field: &SettingField) -> String {
    match field.shape {
        SettingShape::One(kind) => jovrik_core::rice::allowed(kind),
        SettingShape::Table(_) | SettingShape::Named(..) => String::new(),
    }
}

fn told(checked: &CheckedRice, node: &SpannedValue) -> (String, String) {
    (node.to_toml(), checked.sources.place(node.span))
}

/// All settings of the catalogue; what a rice sets under names of its own stands instead of `NAME` when `own` is asked for.
fn rows(checked: Option<&CheckedRice>, own: bool) -> Vec<CatalogueRow> {
    let mut rows = Vec::new();
    for SearchableSetting { path, field } in all_settings() {
        let set = |steps: &[String]| {
            let checked = checked?;
            let leaf = checked.tree.get(steps).and_then(Tree::leaf)?;
            Some(told(checked, &leaf.node))
        };
        let pattern = path.replace("CHORD", "NAME").replace("FILE", "NAME");
        match checked.filter(|_| own && pattern.contains("NAME")) {
            // The bindings are many, and keys list shows them.
            Some(_) if path.ends_with("CHORD") => {}
            Some(checked) => {
                let written = |steps: &Vec<String>| checked.tree.get(steps).is_some_and(|tree| tree.leaf().is_some());
                for steps in checked.tree.along(&pattern).into_iter().filter(written) {
                    let path = steps.iter().map(|step| bare(step)).collect::<Vec<_>>().join(".");
                    rows.push(CatalogueRow { path, field, set: set(&steps) });
                }
            }
            None => rows.push(CatalogueRow { set: set(&steps(&path)), path, field }),
        }
    }
    // What a file of overlays/ says of itself; no part can set it.
    each(OverlayFile::CATALOGUE, &mut |path, field| rows.push(CatalogueRow { path: path.to_owned(), field: *field, set: None }));
    rows
}

/// The rows that answer to words, those that answer best first; all of them in their order where there are no words.
fn answering<'r>(rows: &[&'r CatalogueRow], words: &[String]) -> Vec<&'r CatalogueRow> {
    if words.is_empty() {
        return rows.to_vec();
    }
    let near: Vec<&CatalogueRow> = search(rows, words, |row| (&row.path, &row.field)).into_iter().copied().collect();
    // Parts stay together, in the order of their best.
    let mut parts: Vec<&str> = Vec::new();
    near.iter().for_each(|row| {
        if !parts.contains(&row.part()) {
            parts.push(row.part())
        }
    });
    parts.iter().flat_map(|part| near.iter().copied().filter(move |row| row.part() == *part)).collect()
}

/// The fields at the top: the parts of a desktop, and what an overlay says of itself.
fn parts() -> impl Iterator<Item = &'static SettingField> {
    Rice::CATALOGUE.fields.iter().chain(OverlayFile::CATALOGUE.fields)
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    // Outside of any rice the defaults are shown.
    let checked = context.read().ok();
    if let [path] = arguments.words.as_slice()
        && let Some(row) = one(path, checked.as_ref())
    {
        return in_full(&row, arguments.json, context);
    }
    if let [path] = arguments.words.as_slice()
        && let Some(element) = path.strip_prefix("style.")
        && !elements(element).is_empty()
    {
        return of_element(element, arguments.json, context);
    }
    let words: Vec<String> = arguments.words.iter().map(|word| word.to_lowercase()).collect();
    let all = rows(checked.as_ref(), arguments.changed);
    let count_all = all.len();
    let part = arguments.part.as_deref();
    if let Some(part) = part.filter(|part| !parts().any(|field| field.name == *part)) {
        let known: Vec<&str> = parts().map(|field| field.name).collect();
        let told = match Rice::CATALOGUE.near(part) {
            Some((near, _)) => format!("there is no part {part}; did you mean {}?", near.name),
            None => format!("there is no part {part}; there are {}", in_words(&known)),
        };
        return Err(CommandError::Usage(told));
    }
    let fits = |row: &&CatalogueRow| part.is_none_or(|part| row.part() == part) && (!arguments.changed || row.changed());
    let fitting: Vec<&CatalogueRow> = all.iter().filter(fits).collect();
    let found = answering(&fitting, &words);
    if arguments.json {
        for row in &found {
            writeln!(context.out, "{}", json(row))?;
        }
        return Ok(Exit::Done);
    }
    let short = |text: String, most: usize| {
        if text.chars().count() > most { format!("{}…", text.chars().take(most - 1).collect::<String>()) } else { text }
    };
    let wide = context.width >= 110;
    let cells = |row: &&CatalogueRow| {
        let mut cells = vec![row.path.clone(), short(row.value(), 18)];
        if wide {
            cells.push(short(allowed(&row.field), 28));
        }
        let idle = if row.field.takes == ReloadPolicy::Unimplemented { " (nothing acts on it yet)" } else { "" };
        cells.push(format!("{}{idle}", row.help()));
        cells
    };
    let table: Vec<Vec<String>> = found.iter().map(cells).collect();
    let out = &mut context.out;
    let mut part = "";
    for (row, line) in found.iter().zip(columns(&table, "  ", context.width)) {
        if row.part() != part {
            let help = parts().find(|field| field.name == row.part()).map_or("", |field| field.help.trim());
            let gap = if part.is_empty() { "" } else { "\n" };
            writeln!(out, "{gap}{}  {}", Meaning::Heading.paint(row.part()), Meaning::Second.paint(help))?;
            part = row.part();
        }
        writeln!(out, "{line}")?;
    }
    if found.is_empty() {
        let later =
            examples::SETTINGS_NOT_BUILT.iter().find(|(words_of, _)| words.iter().any(|word| words_of.contains(&word.as_str())));
        match later {
            Some((_, what)) => writeln!(out, "not yet: {what}")?,
            None => writeln!(out, "no setting holds that; jovrik settings alone lists all of them")?,
        }
        return Ok(Exit::Done);
    }
    let name = if found.iter().any(|row| ["NAME", "CHORD", "FILE"].iter().any(|name| row.path.contains(name))) {
        "; NAME stands for a name of yours"
    } else {
        ""
    };
    writeln!(out, "\n{} of {}{name}", found.len(), count(count_all, "setting"))?;
    advice(out, "  ", &format!("jovrik settings {}", found[0].path), "shows one in full")?;
    Ok(Exit::Done)
}

/// The setting at a path, with or without a rice's own names.
fn one(path: &str, checked: Option<&CheckedRice>) -> Option<CatalogueRow> {
    let found = rows(checked, false).into_iter().find(|row| row.path == path);
    if found.is_some() {
        return found;
    }
    let checked = checked?;
    let (steps, found) = jovrik_home::edit::setting_steps(path, checked).ok()?;
    let CatalogueMatch::Field(field) = found else { return None };
    matches!(field.shape, SettingShape::One(_)).then(|| {
        let leaf = checked.tree.get(&steps).and_then(Tree::leaf);
        CatalogueRow { path: path.to_owned(), field: *field, set: leaf.map(|leaf| told(checked, &leaf.node)) }
    })
}

fn in_full(row: &CatalogueRow, as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let width = context.width;
    let out = &mut context.out;
    if as_json {
        writeln!(out, "{}", json(row))?;
        return Ok(Exit::Done);
    }
    writeln!(out, "{}", Meaning::Heading.paint(&row.path))?;
    for line in wrap(row.help(), width.saturating_sub(2)) {
        writeln!(out, "  {line}")?;
    }
    let mut facts = Vec::new();
    if let Some((value, place)) = &row.set {
        facts.push(vec!["is".to_owned(), value.clone(), Meaning::Place.paint(place)]);
    }
    let built_in = built_in(&row.path);
    let default = built_in.as_deref().or(row.field.default).unwrap_or("none");
    facts.push(vec!["default".to_owned(), default.to_owned()]);
    facts.push(vec!["may be".to_owned(), allowed(&row.field)]);
    facts.push(vec!["for example".to_owned(), row.field.example()]);
    facts.push(vec!["takes effect".to_owned(), row.field.takes.words().to_owned()]);
    writeln!(out)?;
    for line in columns(&facts, "  ", width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out)?;
    if let SettingShape::One(kind) = row.field.shape
        && !kind.fields.is_empty()
    {
        writeln!(out, "  {}:", if kind.is_list() { "an element says" } else { "it says" })?;
        let fields: Vec<Vec<String>> = kind
            .fields
            .iter()
            .map(|field| vec![format!("{} = {}", field.name, field.example()), field.help.to_owned()])
            .collect();
        for line in columns(&fields, "    ", width) {
            writeln!(out, "{line}")?;
        }
        writeln!(out)?;
    }
    if let Some(whole) = whole_of(&row.path) {
        return Ok(advice(out, "  ", &format!("jovrik settings {whole}"), "shows the value that it is a field of")
            .map(|()| Exit::Done)?);
    }
    if row.path.starts_with("style.NAME.") {
        crate::report::sentence(out, "  NAME is an element, then perhaps a module or a bar, then perhaps a state:", width)?;
        for line in columns(&elements(""), "    ", width) {
            writeln!(out, "{line}")?;
        }
        writeln!(out)?;
        let property = row.path.rsplit('.').next().unwrap_or_default();
        return Ok(
            advice(out, "  ", &format!("jovrik why style.bar.module.{property}"), "says who has a say").map(|()| Exit::Done)?
        );
    }
    if row.part() == "overlay" {
        for line in wrap("It stands in [overlay] of a file of overlays/, beside the settings that are laid on.", width - 2) {
            writeln!(out, "  {line}")?;
        }
        return Ok(Exit::Done);
    }
    // As it is typed: a text without its quotes, what the shell would take apart in quotes.
    let example = row.field.example();
    let typed = parse_value(&example).and_then(|node| node.text().map(str::to_owned)).unwrap_or(example);
    let path = row.path.replace("CHORD", "\"Lead+x\"").replace("FILE", "\"~/.file\"");
    let line = shell_line(&["jovrik", "set", &path, &typed]);
    let gloss = if row.path.contains("NAME") { "changes it, with a name of yours" } else { "changes it" };
    advice(out, "  ", &line, gloss)?;
    Ok(Exit::Done)
}

/// The value that a path names a field of, where that is a table in one line.
fn whole_of(path: &str) -> Option<&str> {
    let (whole, last) = path.rsplit_once('.')?;
    let fields = |sought: &SearchableSetting| matches!(sought.field.shape, SettingShape::One(kind) if kind.fields.iter().any(|one| one.name == last));
    all_settings().iter().any(|sought| sought.path == whole && fields(sought)).then_some(whole)
}

/// The elements at a path and inside it, each with what it is and its states; all of them for no path.
fn elements(path: &str) -> Vec<Vec<String>> {
    let inside = |element: &&Element| {
        let rest = element.path.strip_prefix(path);
        path.is_empty() || rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
    };
    let row = |element: &Element| {
        let states: Vec<&str> = element.states.iter().map(|state| state.word()).collect();
        let states = if states.is_empty() { String::new() } else { format!("; {}", in_words(&states)) };
        vec![element.path.to_owned(), Meaning::Second.paint(&format!("{}{states}", element.help))]
    };
    ELEMENTS.iter().filter(inside).map(row).collect()
}

/// An element of style, and those inside it.
fn of_element(path: &str, as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let (out, width) = (&mut context.out, context.width);
    if as_json {
        for element in ELEMENTS.iter().filter(|element| element.path == path || element.path.starts_with(&format!("{path}."))) {
            let states: Vec<&str> = element.states.iter().map(|state| state.word()).collect();
            writeln!(
                out,
                "{}",
                serde_json::json!({ "path": format!("style.{}", element.path), "help": element.help, "states": states })
            )?;
        }
        return Ok(Exit::Done);
    }
    writeln!(out, "{}", Meaning::Heading.paint(&format!("style.{path}")))?;
    for line in columns(&elements(path), "  ", width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out)?;
    let all = [
        ("jovrik settings --part style".to_owned(), "what can be said of each"),
        (format!("jovrik set style.{path}.fill @paper"), "says one of it"),
        (format!("jovrik why style.{path}.fill"), "who has a say"),
    ];
    advise(out, "  ", &all)?;
    Ok(Exit::Done)
}

/// What is built in of a style's property.
fn built_in(path: &str) -> Option<String> {
    let steps = steps(path);
    let (first, rest) = steps.split_first()?;
    let rest: Vec<&str> = rest.iter().map(String::as_str).collect();
    if first == "style" { built_in_style(&rest) } else { None }
}

fn json(row: &CatalogueRow) -> serde_json::Value {
    let SettingShape::One(kind) = row.field.shape else { return serde_json::Value::Null };
    let allowed = match kind.allowed {
        ValueConstraint::Any => serde_json::Value::Null,
        ValueConstraint::Range(from, to) => serde_json::json!([from, to]),
        ValueConstraint::OneOf(words) => serde_json::json!(words),
    };
    serde_json::json!({
        "path": row.path, "help": row.help(), "type": kind.name, "unit": kind.unit, "allowed": allowed,
        "default": row.field.default, "value": row.value(), "place": row.set.as_ref().map(|(_, place)| place),
        "example": row.field.example(), "takes": row.field.takes.words(),
    })
}
