//! `jovrik why`

mod style;

use jovrik_core::check::{CheckedRice, OverlayStatus, overlay_alone};
use jovrik_core::rice::{Rice, Verdict, followers, goes_with};
use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, SettingShape, find, pattern_of};
use jovrik_schema::{Branch, ConfigLayer, Leaf, Tree};
use jovrik_text::problem::{count, in_words};
use jovrik_text::{FileId, Span};
use jovrik_toml::{SpannedValue, parse_value, path_of, steps};
use serde_json::json;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns, wrap};

/// Say where a value comes from and what it won over; alone, which files are read
///
/// Of a style, such as style.menu.item.picked.ink, the cascade: every element that has a say, the strongest first.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path
    #[arg(add = crate::complete::setting())]
    pub path: Option<String>,
    /// JSON. With a path: path, value, chain (value, file, line, column), not-asked, default, takes, followed-by. Without
    /// one: files (file, is, settings, won-over, why)
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match &arguments.path {
        Some(path) => match steps(path).split_first() {
            Some((part, rest)) if part == "style" && !rest.is_empty() => style::run(rest, arguments.json, context),
            _ => setting(path, arguments.json, context),
        },
        None => files(arguments.json, context),
    }
}

/// An overlay that does not hold and would have a say.
struct NotAsked {
    node: SpannedValue,
    reason: String,
}

fn not_asked(checked: &CheckedRice, steps: &[String]) -> Vec<NotAsked> {
    let other = |overlay: &OverlayStatus| {
        let reason = (!overlay.verdict.holds).then(|| overlay.verdict.why.clone())?;
        let alone = overlay_alone(&checked.sources, overlay.file, checked.lead().word());
        let node = alone.get(steps).and_then(Tree::leaf)?.node.clone();
        Some(NotAsked { node, reason })
    };
    checked.overlays.iter().filter_map(other).collect()
}

/// Why the overlay of a layer holds.
fn reason_of(checked: &CheckedRice, nth: u16) -> String {
    let overlay = checked.overlays.iter().find(|overlay| overlay.layer == Some(nth));
    overlay.filter(|overlay| overlay.verdict.holds).map(|overlay| overlay.verdict.why.clone()).unwrap_or_default()
}

fn setting(path: &str, as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    let path = &context.meant(path);
    let (path_steps, found) = jovrik_home::edit::setting_steps(path, &checked)?;
    if !matches!(found.shape(), SettingShape::One(_)) {
        return Err(CommandError::Usage(format!("{path} is a table; name one of its settings (jovrik show {path} lists them)")));
    }
    let (default, takes) = match found {
        CatalogueMatch::Field(field) => (field.default, field.takes),
        CatalogueMatch::Named(_) => (None, ReloadPolicy::Immediate),
    };
    let leaf = checked.tree.get(&path_steps).and_then(Tree::leaf);
    let chain: Vec<(&SpannedValue, ConfigLayer)> = leaf
        .into_iter()
        .flat_map(|Leaf { node, layer, over }| {
            std::iter::once((node, *layer)).chain(over.iter().map(|(layer, node)| (node, *layer)))
        })
        .collect();
    let others = not_asked(&checked, &path_steps);
    let dropped = checked.dropped.iter().find(|dropped| path_steps.starts_with(&dropped.steps));
    if chain.is_empty() && default.is_none() && others.is_empty() && dropped.is_none() {
        return Err(jovrik_home::Error::NotSet(path.to_owned()).into());
    }
    let value = chain.first().map(|(node, _)| node.to_toml()).or_else(|| default.map(str::to_owned));
    let full = path_of(&path_steps);
    let followed = followed_by(&checked, &path_steps, &full);
    let goes = goes_with(&pattern_of(Rice::CATALOGUE, &path_steps));
    let place = |span: Span| checked.sources.place(span);
    let out = &mut context.out;
    if as_json {
        let link = |node: &SpannedValue| {
            let file = checked.sources.get(node.span.file);
            let at = file.map(|file| file.position(node.span.start));
            json!({ "value": node.to_toml(), "file": file.map(|file| &file.name), "line": at.map(|at| at.line), "column": at.map(|at| at.column) })
        };
        let links: Vec<_> = chain.iter().map(|(node, _)| link(node)).collect();
        let others: Vec<_> = others
            .iter()
            .map(|other| {
                let mut link = link(&other.node);
                link["reason"] = json!(other.reason);
                link
            })
            .collect();
        let value = json!({
            "path": full, "value": value, "chain": links, "not-asked": others, "default": default, "takes": takes.words(),
            "followed-by": followed.iter().map(|(path, _)| path).collect::<Vec<_>>(),
        });
        writeln!(out, "{value}")?;
        return Ok(Exit::Done);
    }
    match &value {
        Some(value) => writeln!(out, "{full} is {}", Meaning::Heading.paint(value))?,
        None => writeln!(out, "{full} is not set here")?,
    }
    let mut rows = Vec::new();
    for (at, (node, layer)) in chain.iter().enumerate() {
        let from = match layer {
            ConfigLayer::With => "--with".to_owned(),
            ConfigLayer::Choice => "picked on this computer".to_owned(),
            ConfigLayer::Parts | ConfigLayer::Overlay(_) => Meaning::Place.paint(&place(node.span)),
        };
        let said = match (at, layer) {
            (0, ConfigLayer::Overlay(nth)) => format!("holds here: {}", reason_of(&checked, *nth)),
            (0, ConfigLayer::Choice) => "holds until the rice says something else".to_owned(),
            (0, _) => "holds".to_owned(),
            _ => "won over".to_owned(),
        };
        rows.push(vec![node.to_toml(), from, said]);
    }
    if let Some(default) = default {
        let said = if chain.is_empty() { "holds" } else { "won over" };
        rows.push(vec![default.to_owned(), "built-in default".to_owned(), said.to_owned()]);
    }
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    follow(value.as_deref().unwrap_or_default(), &checked, out)?;
    let mut notes = Vec::new();
    if let Some(dropped) = dropped {
        notes.push(format!("taken away: {} drops {}", place(dropped.span), path_of(&dropped.steps)));
    }
    notes.extend(
        others
            .iter()
            .map(|other| format!("not asked: {} says {}; {}", place(other.node.span), other.node.to_toml(), other.reason)),
    );
    if chain.first().is_some_and(|(_, layer)| *layer == ConfigLayer::Choice) {
        notes.push(format!("jovrik reset --choice {full} takes it back"));
    }
    if !notes.is_empty() {
        writeln!(out)?;
    }
    let mut effect = format!("takes effect {}", takes.words());
    if let Some(goes) = goes {
        effect.push_str(&format!("; with it goes {goes}"));
    }
    notes.push(String::new());
    notes.push(effect);
    if !followed.is_empty() {
        let few: Vec<String> = followed
            .iter()
            .take(6)
            .map(|(path, by_default)| if *by_default { format!("{path} (by default)") } else { path.clone() })
            .collect();
        let more = followed.len() - few.len();
        let more = if more > 0 { format!(", and {more} more") } else { String::new() };
        notes.push(format!("followed by {}{more}", if more.is_empty() { in_words(&few) } else { few.join(", ") }));
    }
    for line in notes.iter().flat_map(|note| hang(note, context.width)) {
        writeln!(out, "{line}")?;
    }
    Ok(Exit::Done)
}

/// A note on lines of its own, the later ones indented.
fn hang(note: &str, width: usize) -> Vec<String> {
    let lines = wrap(note, width.saturating_sub(2));
    lines.into_iter().enumerate().map(|(at, line)| if at == 0 { line } else { format!("  {line}") }).collect()
}

/// The settings that take their value from one: by its path, or as a role of the palette in use.
fn followed_by(checked: &CheckedRice, steps: &[String], full: &str) -> Vec<(String, bool)> {
    let mut found = followers(&checked.tree, full);
    if let [palette, name, role] = steps
        && palette == "palette"
        && *name == checked.rice.palette.name
    {
        found.extend(followers(&checked.tree, &format!("@{role}")));
    }
    found
}

/// Follows references and roles from a value, a line for each step.
fn follow(value: &str, checked: &CheckedRice, out: &mut dyn std::io::Write) -> std::io::Result<()> {
    let mut value = value.to_owned();
    for _ in 0..16 {
        let text = value.trim_matches('"').to_owned();
        if let Some(role) = text.strip_prefix('@').filter(|role| !role.starts_with('@')) {
            let role = role.split('/').next().unwrap_or_default();
            let palettes = &checked.rice.palette;
            let Some(colour) = palettes.current.role(role) else { return Ok(()) };
            let place = match checked.tree.get(&["palette", palettes.name.as_str(), role]) {
                Some(Tree::Leaf(leaf)) => checked.sources.place(leaf.node.span),
                _ => "built-in default".to_owned(),
            };
            writeln!(out, "  {role} of palette {} is {}  {}", palettes.name, colour.hex(), Meaning::Place.paint(&place))?;
            return Ok(());
        }
        let Some(target) = text.strip_prefix('=').filter(|target| !target.starts_with('=')) else { return Ok(()) };
        let next = match checked.tree.get(&steps(target)) {
            Some(Tree::Leaf(leaf)) => leaf.node.to_toml(),
            _ => match find(Rice::CATALOGUE, &steps(target)) {
                Ok(CatalogueMatch::Field(field)) => {
                    field.default.and_then(parse_value).map(|node| node.to_toml()).unwrap_or_default()
                }
                _ => return Ok(()),
            },
        };
        writeln!(out, "  which follows {target}: {next}")?;
        value = next;
    }
    Ok(())
}

/// How many values of each file hold, and how many were won over.
fn tally(branch: &Branch, counts: &mut [(usize, usize)]) {
    for tree in branch.entries.values() {
        match tree {
            Tree::Branch(inner) => tally(inner, counts),
            Tree::Leaf(leaf) => {
                let mut add = |file: FileId, held: bool| {
                    if let Some((holding, lost)) = counts.get_mut(usize::from(file.0)) {
                        if held { *holding += 1 } else { *lost += 1 }
                    }
                };
                add(leaf.node.key.file, true);
                leaf.over.iter().for_each(|(_, node)| add(node.key.file, false));
            }
        }
    }
}

/// One file of a rice: what it is, and why it is read or not.
struct FileRow {
    name: String,
    is: &'static str,
    counts: (usize, usize),
    why: String,
}

fn files(as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    let folder = context.folder()?;
    let mut counts = vec![(0, 0); checked.sources.iter().count()];
    tally(&checked.tree, &mut counts);
    let mut rows: Vec<FileRow> = Vec::new();
    for (id, source) in checked.sources.iter() {
        let row = |is, why: String| FileRow { name: source.name.clone(), is, counts: counts[usize::from(id.0)], why };
        let overlay = checked.overlays.iter().find(|overlay| overlay.file == id);
        rows.push(match (overlay.map(|overlay| &overlay.verdict), source.name.split('/').next()) {
            (Some(Verdict { holds: true, why }), _) => row("overlay", format!("holds here: {why}")),
            (Some(Verdict { why, .. }), _) => row("skipped", format!("not asked: {why}")),
            (None, Some("machines")) => row("machine", "facts of a computer; checks look at them too".to_owned()),
            (None, Some("parts")) => row("part", String::new()),
            (None, Some("art")) => row("art", "what a program binds by itself".to_owned()),
            (None, _) => row("manifest", "what the rice is called and needs".to_owned()),
        });
    }
    for problem in checked
        .problems
        .iter()
        .filter(|problem| problem.code.starts_with("file/") && problem.code != "file/not-read" && problem.file.is_some())
    {
        rows.push(FileRow { name: String::new(), is: "unreadable", counts: (0, 0), why: problem.title.clone() });
    }
    let ignored = |(name, why): &(String, &'static str)| FileRow {
        name: name.clone(),
        is: "ignored",
        counts: (0, 0),
        why: format!("ignored: {why}"),
    };
    rows.extend(checked.skipped.iter().map(ignored));
    let out = &mut context.out;
    if as_json {
        let one = |row: &FileRow| json!({ "file": row.name, "is": row.is, "settings": row.counts.0, "won-over": row.counts.1, "why": row.why });
        let rows: Vec<_> = rows.iter().map(one).collect();
        writeln!(out, "{}", json!({ "rice": folder.display().to_string(), "files": rows }))?;
        return Ok(Exit::Done);
    }
    let found = match (&context.asked, context.here.ancestors().any(|above| above == folder)) {
        (Some(_), _) => "asked for by --rice or $JOVRIK_RICE",
        (None, true) => "the nearest folder above with a rice.toml",
        (None, false) => "the applied one",
    };
    let row = vec![Meaning::Place.paint(&context.home.short(&folder)), Meaning::Second.paint(found)];
    for line in columns(&[row], "", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out)?;
    let cells = |row: &FileRow| {
        let (held, lost) = row.counts;
        let mut said = Vec::new();
        if held + lost > 0 {
            said.push(count(held, "setting"));
        }
        if lost > 0 {
            said.push(format!("{lost} won over by others"));
        }
        if !row.why.is_empty() {
            said.push(row.why.clone());
        }
        vec![row.name.clone(), said.join("; ")]
    };
    let table: Vec<Vec<String>> = rows.iter().map(cells).collect();
    for (row, line) in rows.iter().zip(columns(&table, "  ", context.width)) {
        let dim = matches!(row.is, "skipped" | "ignored");
        writeln!(out, "{}", if dim { Meaning::Second.paint(&line) } else { line })?;
    }
    if !context.with.is_empty() {
        let with: Vec<String> = context.with.iter().map(|(path, value)| format!("{path}={value}")).collect();
        writeln!(out, "  --with {}", with.join(" --with "))?;
    }
    let order = "Parts win over those above them, and overlays that hold win over all parts; jovrik why PATH shows one setting.";
    writeln!(out)?;
    for line in wrap(order, context.width) {
        writeln!(out, "{line}")?;
    }
    Ok(Exit::Done)
}
