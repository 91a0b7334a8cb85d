//! Templates: files that a rice carries, filled with its values.

use jovrik_schema::catalogue::{CatalogueMatch, find};
use jovrik_schema::{Branch, Colour, MAX_REFERENCE_STEPS, Tree};
use jovrik_toml::{TomlValue, parse_value, steps};

use crate::colour::terminal_colours;
use crate::rice::Rice;

/// What cannot be filled in, and at which byte of the template.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnresolvedPlaceholder {
    /// The first byte of `{{`.
    pub at: usize,
    /// What stands between the braces; nothing when they are not closed.
    pub name: Option<String>,
}

impl std::fmt::Display for UnresolvedPlaceholder {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match &self.name {
            Some(name) => write!(f, "{{{{{name}}}}} names no setting and no colour of the palette"),
            None => f.write_str("a {{ is not closed by }}"),
        }
    }
}

/// The paths of the settings that a template takes in, as they are written there; colours of the palette and plain texts aside.
pub fn holes(template: &str) -> Vec<&str> {
    let names = template.split("{{").skip(1).filter_map(|after| after.split_once("}}")).map(|(name, _)| name.trim());
    names.filter(|name| !name.starts_with(['@', '"'])).map(|name| parted(name).0).collect()
}

/// How a colour is written in other programs' files.
#[derive(Debug, Clone, Copy)]
pub struct ColourForm {
    /// Its name: how the parts of a colour stand in it.
    pub name: &'static str,
    /// What it makes of `#102030`; at half opacity, where it tells that.
    pub example: &'static str,
    write: fn(Colour) -> String,
}

impl ColourForm {
    /// Whether it tells how opaque a colour is.
    pub fn has_opacity(&self) -> bool {
        self.name.contains("aa") || self.name.contains("rgba")
    }
}

const fn form(name: &'static str, example: &'static str, write: fn(Colour) -> String) -> ColourForm {
    ColourForm { name, example, write }
}

/// All of them.
pub const COLOUR_FORMS: &[ColourForm] = &[
    form("rrggbb", "102030", |c| format!("{:02x}{:02x}{:02x}", c.r, c.g, c.b)),
    form("#rrggbb", "#102030", |c| format!("#{:02x}{:02x}{:02x}", c.r, c.g, c.b)),
    form("rrggbbaa", "10203080", |c| format!("{:02x}{:02x}{:02x}{:02x}", c.r, c.g, c.b, c.a)),
    form("#aarrggbb", "#80102030", |c| format!("#{:02x}{:02x}{:02x}{:02x}", c.a, c.r, c.g, c.b)),
    form("0xrrggbb", "0x102030", |c| format!("0x{:02x}{:02x}{:02x}", c.r, c.g, c.b)),
    form("0xaarrggbb", "0x80102030", |c| format!("0x{:02x}{:02x}{:02x}{:02x}", c.a, c.r, c.g, c.b)),
    form("r,g,b", "16,32,48", |c| format!("{},{},{}", c.r, c.g, c.b)),
    form("r;g;b", "16;32;48", |c| format!("{};{};{}", c.r, c.g, c.b)),
    form("rgb()", "rgb(16, 32, 48)", |c| format!("rgb({}, {}, {})", c.r, c.g, c.b)),
    form("rgba()", "rgba(16, 32, 48, 0.5)", |c| {
        let part = (f32::from(c.a) / 255.0 * 100.0).round() / 100.0;
        format!("rgba({}, {}, {}, {part})", c.r, c.g, c.b)
    }),
];

/// What is asked for between braces, and the form that it is to have.
fn parted(name: &str) -> (&str, Option<&'static ColourForm>) {
    let form = name.rsplit_once(' ').and_then(|(name, form)| Some((name, COLOUR_FORMS.iter().find(|known| known.name == form)?)));
    form.map_or((name, None), |(name, form)| (name.trim_end(), Some(form)))
}

/// What stands between braces, filled in.
fn filled(hole: &str, tree: &Branch, rice: &Rice) -> Option<String> {
    if let Some(text) = hole.strip_prefix('"') {
        return text.strip_suffix('"').map(str::to_owned);
    }
    let (name, form) = parted(hole);
    let text = value(name, tree, rice, 0)?;
    match form {
        Some(form) => Colour::css(&text).map(form.write),
        None => Some(text),
    }
}

/// Replaces `{{path}}` by a setting's value, `{{@role}}` by a colour, either with a form of colours behind it, and `{{"text"}}` by
/// that text; everything that cannot be filled in otherwise.
pub fn fill(template: &str, tree: &Branch, rice: &Rice) -> Result<String, Vec<UnresolvedPlaceholder>> {
    let mut out = String::with_capacity(template.len());
    let mut wrong = Vec::new();
    let mut rest = template;
    while let Some(at) = rest.find("{{") {
        let place = template.len() - rest.len() + at;
        out.push_str(&rest[..at]);
        let after = &rest[at + 2..];
        let Some(end) = after.find("}}") else {
            wrong.push(UnresolvedPlaceholder { at: place, name: None });
            rest = "";
            break;
        };
        let name = after[..end].trim();
        match filled(name, tree, rice) {
            Some(text) => out.push_str(&text),
            None => wrong.push(UnresolvedPlaceholder { at: place, name: Some(name.to_owned()) }),
        }
        rest = &after[end + 2..];
    }
    out.push_str(rest);
    if wrong.is_empty() { Ok(out) } else { Err(wrong) }
}

fn value(name: &str, tree: &Branch, rice: &Rice, depth: usize) -> Option<String> {
    if depth > MAX_REFERENCE_STEPS {
        return None;
    }
    if name.starts_with('@') {
        return colour(name, rice);
    }
    let steps = steps(name);
    let node = match tree.get(&steps) {
        Some(Tree::Leaf(leaf)) => leaf.node.clone(),
        _ => match find(Rice::CATALOGUE, &steps) {
            Ok(CatalogueMatch::Field(field)) => field.default.and_then(parse_value)?,
            _ => return None,
        },
    };
    match &node.value {
        TomlValue::String(text) => match text.strip_prefix('=') {
            Some(target) => value(target, tree, rice, depth + 1),
            None => Some(coloured(text, rice)),
        },
        _ => Some(node.to_toml()),
    }
}

/// The colour of a role, or of a terminal's sixteen as `@term3`; also with an opacity: `@accent/40%`.
fn colour(text: &str, rice: &Rice) -> Option<String> {
    let (role, percent) = text.strip_prefix('@')?.split_once('/').unwrap_or((&text[1..], "100%"));
    let percent: f32 = percent.strip_suffix('%')?.trim().parse().ok().filter(|percent| (0.0..=100.0).contains(percent))?;
    let palette = &rice.palette.current;
    let of_terminal = || terminal_colours(palette).get(role.strip_prefix("term")?.parse::<usize>().ok()?).copied();
    palette.role(role).or_else(of_terminal).map(|colour| colour.faded(percent / 100.0).hex())
}

/// A value with its roles as colours: one by itself, or those of a gradient. Another text that begins with `@` is none.
fn coloured(text: &str, rice: &Rice) -> String {
    if !text.starts_with("linear-gradient(") {
        return colour(text, rice).unwrap_or_else(|| text.to_owned());
    }
    let ends = |c: char| matches!(c, '(' | ')' | ',' | ' ');
    text.split_inclusive(ends)
        .map(|piece| {
            let word = piece.trim_end_matches(ends);
            colour(word, rice).map_or_else(|| piece.to_owned(), |hex| hex + &piece[word.len()..])
        })
        .collect()
}
