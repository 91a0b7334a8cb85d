//! `jovrik why`

use jovrik_core::check::Checked;
use jovrik_core::load::{Layer, Leaf, Node, Span, Tree, parse_value};
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Found, Shape, Takes, find, steps};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, columns};

/// Say where a value comes from and what it won over
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path
    pub path: String,
    /// JSON: path, value, chain (value, file, line, column)
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let checked = context.checked()?;
    let (path_steps, found) = jovrik_home::edit::setting_steps(&arguments.path, &checked)?;
    if !matches!(found.shape(), Shape::One(_)) {
        return Err(Failure::Usage(format!(
            "{} is a table; name one of its settings (jovrik show {} lists them)",
            arguments.path, arguments.path
        )));
    }
    let default = match found {
        Found::Field(field) => field.default,
        Found::Named(_) => None,
    };
    let leaf = checked.tree.get(&path_steps).and_then(Tree::leaf);
    let chain: Vec<(&Node, Layer)> = leaf
        .into_iter()
        .flat_map(|Leaf { node, layer, over }| {
            std::iter::once((node, *layer)).chain(over.iter().map(|(layer, node)| (node, *layer)))
        })
        .collect();
    if chain.is_empty() && default.is_none() {
        return Err(jovrik_home::Error::NotSet(arguments.path).into());
    }
    let value = chain.first().map(|(node, _)| node.to_toml()).or_else(|| default.map(str::to_owned)).unwrap_or_default();
    let place = |span: Span| checked.sources.place(span);
    let out = &mut context.out;
    if arguments.json {
        let link = |node: &Node| {
            let file = checked.sources.get(node.span.file);
            let at = file.map(|file| file.position(node.span.start));
            serde_json::json!({ "value": node.to_toml(), "file": file.map(|file| &file.name), "line": at.map(|at| at.line), "column": at.map(|at| at.column) })
        };
        let links: Vec<_> = chain.iter().map(|(node, _)| link(node)).collect();
        writeln!(out, "{}", serde_json::json!({ "path": arguments.path, "value": value, "chain": links, "default": default }))?;
        return Ok(Exit::Done);
    }
    writeln!(out, "{} is {}", arguments.path, Meaning::Heading.paint(&value))?;
    let mut rows = Vec::new();
    for (at, (node, layer)) in chain.iter().enumerate() {
        let from = if *layer == Layer::With { "--with".to_owned() } else { Meaning::Place.paint(&place(node.span)) };
        let said = if at == 0 { "holds" } else { "won over" };
        rows.push(vec![node.to_toml(), from, said.to_owned()]);
    }
    if let Some(default) = default {
        let said = if chain.is_empty() { "holds" } else { "won over" };
        rows.push(vec![default.to_owned(), "built-in default".to_owned(), said.to_owned()]);
    }
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    follow(&value, &checked, out)?;
    let takes = match found {
        Found::Field(field) => field.takes,
        Found::Named(_) => Takes::Now,
    };
    let when = match takes {
        Takes::Now => "at once",
        Takes::Restart => "when its part starts again",
        Takes::Login => "at the next login",
    };
    writeln!(out, "\ntakes effect {when}")?;
    Ok(Exit::Done)
}

/// Follows references and roles from a value, a line for each step.
fn follow(value: &str, checked: &Checked, out: &mut dyn std::io::Write) -> std::io::Result<()> {
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
                Ok(Found::Field(field)) => field.default.and_then(parse_value).map(|node| node.to_toml()).unwrap_or_default(),
                _ => return Ok(()),
            },
        };
        writeln!(out, "  which follows {target}: {next}")?;
        value = next;
    }
    Ok(())
}
