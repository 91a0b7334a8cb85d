//! Every setting as a file of comments, and as a page: the catalogue in words.

use jovrik_schema::catalogue::{
    InlineField, KeySyntax, ReloadPolicy, SettingField, SettingShape, SettingTable, ValueConstraint, ValueType,
};
use jovrik_text::problem::{count, in_words};

use super::Rice;

/// What a value may be, in words.
pub fn allowed(kind: &ValueType) -> String {
    let unit = if kind.unit.is_empty() { String::new() } else { format!(" {}", kind.unit) };
    match kind.allowed {
        ValueConstraint::Range(from, to) => format!("{from} to {to}{unit}"),
        ValueConstraint::OneOf(words) if kind.is_list() => format!("list of {}", in_words(words)),
        ValueConstraint::OneOf(words) => in_words(words).replace(" and ", " or "),
        ValueConstraint::Any if kind.is_list() => format!("list of {}s", kind.unit),
        ValueConstraint::Any => format!("{}{}", kind.name, if unit.is_empty() { String::new() } else { format!(":{unit}") }),
    }
}

/// A name that stands for a person's own, by the table it is in.
fn stand_in(table: &str, names: KeySyntax) -> &'static str {
    match (table, names) {
        (_, KeySyntax::Spelled(_)) => "Lead+Return",
        (_, KeySyntax::Files) => "~/.Xdefaults",
        ("palette", _) => "ebb",
        ("style", _) => "bar",
        ("bar", _) => "top",
        ("monitor", _) => "left",
        ("workspace", _) => "charts",
        ("layout", _) => "mast",
        ("module", _) => "clock",
        ("rule", _) => "dialogs",
        ("program" | "start", _) => "terminal",
        ("scope" | "keys", _) => "editor",
        ("modes", _) => "sizing",
        ("environment", _) => "EDITOR",
        _ => "mine",
    }
}

/// One setting with the path of its table in the exhaustive sample, or one value that a person names.
struct SettingRow {
    table: Vec<&'static str>,
    name: &'static str,
    help: &'static str,
    kind: &'static ValueType,
    default: Option<&'static str>,
    example: String,
    takes: ReloadPolicy,
}

fn lines(table: &'static SettingTable, path: &mut Vec<&'static str>, out: &mut Vec<SettingRow>) {
    for field in table.fields {
        shape(field.name, field.shape, Some(field), path, out);
    }
    if let Some((names, inner)) = table.rest {
        shape(stand_in(path.last().copied().unwrap_or_default(), names), *inner, None, path, out);
    }
}

fn shape(
    name: &'static str,
    what: SettingShape,
    field: Option<&'static SettingField>,
    path: &mut Vec<&'static str>,
    out: &mut Vec<SettingRow>,
) {
    match what {
        SettingShape::One(kind) => {
            let example = match field {
                Some(field) => field.example(),
                None if kind.is_text() => "\"reedit\"".to_owned(),
                None => kind.example.to_owned(),
            };
            let help = field.map_or("", |field| field.help.trim());
            let default = field.and_then(|field| field.default);
            let takes = field.map_or(ReloadPolicy::Immediate, |field| field.takes);
            out.push(SettingRow { table: path.clone(), name, help, kind, default, example, takes });
        }
        SettingShape::Table(inner) => {
            path.push(name);
            lines(inner, path, out);
            path.pop();
        }
        SettingShape::Named(names, inner) => {
            path.push(name);
            shape(stand_in(name, names), *inner, None, path, out);
            path.pop();
        }
    }
}

/// All settings, those of a table together.
fn all() -> Vec<SettingRow> {
    let mut all = Vec::new();
    lines(Rice::CATALOGUE, &mut Vec::new(), &mut all);
    // Tables stand after the values of the table they lie in.
    let parts: Vec<&str> = Rice::CATALOGUE.fields.iter().map(|field| field.name).collect();
    let part = |line: &SettingRow| parts.iter().position(|part| line.table.first().unwrap_or(&line.name) == part);
    let mut tables: Vec<Vec<&str>> = Vec::new();
    for line in &all {
        if !tables.contains(&line.table) {
            tables.push(line.table.clone());
        }
    }
    all.sort_by_key(|line| (part(line), tables.iter().position(|table| *table == line.table)));
    all
}

/// A file of `parts/` that names every setting with its help, what it may be, and its default or an example, all of it
/// as comments.
pub fn every_setting() -> String {
    let mut text = String::from(
        "# Every setting there is, switched off.\n\
         # Take the # from a setting, and from the [table] above it, to set it here: jovrik toggle PATH does both.\n\
         # Each stands with its default; what has none, with an example. \"Not yet\": checked, but nothing acts on it so far.\n",
    );
    let mut table: Option<Vec<&str>> = None;
    for line in all() {
        if table.as_ref() != Some(&line.table) {
            let part = line.table.first().copied().unwrap_or_default();
            if table.as_ref().and_then(|table| table.first().copied()) != Some(part) {
                let help = Rice::CATALOGUE.field(part).map_or("", |field| field.help.trim());
                text.push_str(&format!("\n## {part}: {help}\n"));
            }
            text.push_str(&format!("\n# [{}]\n", jovrik_toml::path_of(&line.table)));
            table = Some(line.table.clone());
        }
        if !line.help.is_empty() {
            let later = if line.takes == ReloadPolicy::Unimplemented { "; not yet" } else { "" };
            text.push_str(&format!("## {}; {}{later}\n", line.help, allowed(line.kind)));
        }
        let value = line.default.map_or(line.example, str::to_owned);
        text.push_str(&format!("# {} = {value}\n", jovrik_toml::bare(line.name)));
    }
    text
}

/// The reference page: every setting in tables, in Markdown.
pub fn reference() -> String {
    let mut all = all();
    lines(super::OverlayFile::CATALOGUE, &mut Vec::new(), &mut all);
    let mut text = format!(
        "# Settings\n\nMade from the catalogue by `cargo xtask reference`; `jovrik settings` shows the same with the values of a rice.\n\
         Names that a person chooses stand as an example: `bar.top`, `module.clock`. There are {}. Pages of grammar follow: what is written\ninside values; `jovrik help` shows them.\n",
        count(all.len(), "setting")
    );
    let mut table: Option<Vec<&str>> = None;
    let mut explained: Vec<&[InlineField]> = Vec::new();
    for line in all {
        if table.as_ref() != Some(&line.table) {
            let part = line.table.first().copied().unwrap_or_default();
            if table.as_ref().and_then(|table| table.first().copied()) != Some(part) {
                let field = Rice::CATALOGUE.field(part).or(super::OverlayFile::CATALOGUE.field(part));
                text.push_str(&format!("\n## {part}: {}\n", field.map_or("", |field| field.help.trim())));
            }
            text.push_str(&format!("\n### `[{}]`\n\n", jovrik_toml::path_of(&line.table)));
            text.push_str(
                "| setting | what it is | may be | default | for example | takes effect |\n|---|---|---|---|---|---|\n",
            );
            table = Some(line.table.clone());
        }
        let cell = |text: &str| text.replace('|', "\\|");
        let default = line.default.map_or("none".to_owned(), |default| format!("`{}`", cell(default)));
        text.push_str(&format!(
            "| `{}` | {} | {} | {default} | `{}` | {} |\n",
            cell(line.name),
            cell(line.help),
            cell(&allowed(line.kind)),
            cell(&line.example),
            line.takes.words().split(':').next().unwrap_or_default(),
        ));
        // What a table in one line says, at the first of its kind.
        if explained.contains(&line.kind.fields) {
            continue;
        }
        explained.push(line.kind.fields);
        for field in line.kind.fields {
            text.push_str(&format!(
                "| `{}.{}` | {} | {} | none | `{}` | {} |\n",
                cell(line.name),
                field.name,
                cell(field.help),
                cell(&allowed(field.kind)),
                cell(&field.example()),
                line.takes.words().split(':').next().unwrap_or_default(),
            ));
        }
    }
    for topic in super::TOPICS {
        text.push_str(&format!("\n## {}: {}\n", topic.name, topic.about));
        for block in topic.page() {
            text.push('\n');
            match block {
                super::Block::Text(sentences) => text.push_str(&format!("{sentences}\n")),
                super::Block::Code(code) => {
                    let language = if topic.name == "templates" { "" } else { "toml" };
                    text.push_str(&format!("```{language}\n{code}\n```\n"));
                }
                super::Block::Table(rows) => {
                    text.push_str("| written | means |\n|---|---|\n");
                    for [written, means] in rows {
                        text.push_str(&format!("| `{}` | {} |\n", written.replace('|', "\\|"), means.replace('|', "\\|")));
                    }
                }
            }
        }
    }
    text
}
