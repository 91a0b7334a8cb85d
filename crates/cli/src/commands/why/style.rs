//! `jovrik why style.…`: the cascade of one property of one element.

use jovrik_core::check::CheckedRice;
use jovrik_core::rice::{StyleRule, TEXT_PROPERTIES, built_in_style};
use jovrik_core::style::{ELEMENTS, Instances, StyledElement, least, place, resolve, said, under, worst};
use jovrik_schema::catalogue::{Setting, table_of};
use jovrik_schema::{ConfigLayer, Tree};
use jovrik_text::problem::{in_words, nearest};
use jovrik_values::{ElementState, Fill};
use serde_json::json;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};

/// One link of the chain.
struct Link {
    value: String,
    of: String,
    from: String,
    place: Option<(String, usize)>,
    outside: bool,
}

/// Tells the cascade; `steps` begin behind `style`.
pub fn run(steps: &[String], as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    let (Some(property), element) = (steps.last(), &steps[..steps.len().saturating_sub(1)]) else {
        return Err(CommandError::Usage("name an element and a property, such as style.bar.module.cpu.ink".to_owned()));
    };
    let table = table_of(StyleRule::SHAPE);
    if table.field(property).is_none() {
        let names: Vec<&str> = table.fields.iter().map(|field| field.name).collect();
        let hint = nearest(property, names.iter().copied())
            .map_or_else(|| format!("the properties are {}", in_words(&names)), |near| format!("did you mean {near}?"));
        return Err(CommandError::Usage(format!("there is no property {property}; {hint}")));
    }
    let place = place(element).map_err(|unknown| {
        let wrong = element.get(unknown.good).map_or("", String::as_str);
        let known = if unknown.known.is_empty() { String::new() } else { format!("; known there: {}", in_words(&unknown.known)) };
        CommandError::Usage(format!("there is no element {wrong}{known}"))
    })?;
    let rice = &checked.rice;
    if let Some(name) = &place.name {
        let (what, known) = place.element().instances.names(rice);
        if !known.contains(&name.as_str()) {
            let inner = ELEMENTS.iter().filter_map(|element| element.path.strip_prefix(place.kind)?.strip_prefix('.'));
            let near = nearest(name, known.iter().copied().chain(inner));
            let hint = near.map_or_else(|| format!("there is {}", in_words(&known)), |near| format!("did you mean {near}?"));
            return Err(CommandError::Usage(format!("there is no {what} {name}; {hint}")));
        }
    }
    // What lies around it: the bar that shows it, or the only one.
    let module = place.name.as_deref().filter(|_| place.element().instances == Instances::Modules);
    let bar = match module {
        Some(name) => rice.bar.iter().find(|(_, bar)| bar.modules().any(|module| module == name)).map(|(name, _)| name.as_str()),
        None => rice.bar.keys().next().map(String::as_str).filter(|_| rice.bar.len() == 1),
    };
    let states: Vec<ElementState> = place.state.into_iter().collect();
    let name = place.name.as_deref().unwrap_or_default();
    let own = StyledElement { kind: place.kind, name, states: &states };
    let mut chain: Vec<StyledElement<'_>> = Vec::new();
    for (at, _) in place.kind.match_indices('.') {
        let name = if &place.kind[..at] == "bar" { bar.unwrap_or_default() } else { "" };
        chain.push(StyledElement { kind: &place.kind[..at], name, states: &[] });
    }
    if place.kind == "bar.icon" {
        chain.push(StyledElement { kind: "bar.module", name, states: &states });
    }
    chain.push(own);
    let links = links(&checked, &chain, property);
    let style = resolve(rice, &chain);
    let full = format!("style.{}.{property}", element.join("."));
    let width = context.width;
    let out = &mut context.out;
    if as_json {
        let chain: Vec<_> = links
            .iter()
            .map(|link| {
                let (file, line) = link.place.clone().map_or((None, None), |(file, line)| (Some(file), Some(line)));
                json!({ "value": link.value, "of": link.of, "file": file, "line": line, "inherited": link.outside })
            })
            .collect();
        let value = links.first().map(|link| link.value.clone());
        writeln!(out, "{}", json!({ "path": full, "value": value, "chain": chain }))?;
        return Ok(Exit::Done);
    }
    match links.first() {
        Some(link) => writeln!(out, "{full} is {}", Meaning::Heading.paint(&link.value))?,
        None => writeln!(out, "{full} is not set, here or around it")?,
    }
    let rows: Vec<Vec<String>> = links
        .iter()
        .enumerate()
        .map(|(at, link)| {
            let how = match (at, link.outside) {
                (0, false) => "holds".to_owned(),
                (0, true) if link.from.is_empty() => "holds: no style says otherwise".to_owned(),
                (0, true) => format!("holds: text takes it from {} around it", link.of),
                _ => "won over".to_owned(),
            };
            vec![link.value.clone(), link.of.clone(), link.from.clone(), how]
        })
        .collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{}", line.trim_end())?;
    }
    writeln!(out)?;
    let text = TEXT_PROPERTIES.contains(&property.as_str());
    if matches!(property.as_str(), "ink" | "fill") && place.element().text {
        let styles: Vec<_> = (1..=chain.len()).map(|len| resolve(rice, &chain[..len])).collect();
        let mut fills: Vec<&Fill> = vec![&rice.backdrop.fill];
        fills.extend(styles.iter().map(|style| &style.fill));
        if let Some((found, on)) = worst(style.ink, &under(&fills, rice.palette.current.paper)) {
            let enough = if found >= least(&style.face) { "enough" } else { "too little" };
            let told = format!(
                "its ink {} has a contrast of {:.1} on {}, which is {enough}",
                style.ink.hex(),
                (found * 10.0).floor() / 10.0,
                on.hex()
            );
            crate::report::sentence(out, &told, width)?;
        }
    }
    let passed = if text {
        "a text property: what is not set comes from the element around it"
    } else {
        "a box property: it comes only from the kind, its name and its state"
    };
    for line in crate::report::wrap(passed, context.width) {
        writeln!(context.out, "{}", Meaning::Second.paint(&line))?;
    }
    Ok(Exit::Done)
}

fn links(checked: &CheckedRice, chain: &[StyledElement<'_>], property: &str) -> Vec<Link> {
    let mut links = Vec::new();
    let text = TEXT_PROPERTIES.contains(&property);
    for said in said(&checked.rice, chain) {
        if said.from_outside && !text {
            continue;
        }
        let steps: Vec<&str> = said.path.split('.').chain([property]).collect();
        let path: Vec<&str> = std::iter::once("style").chain(steps.iter().copied()).collect();
        if let Some(leaf) = checked.tree.get(&path).and_then(Tree::leaf) {
            let all = std::iter::once((&leaf.node, leaf.layer)).chain(leaf.over.iter().map(|(layer, node)| (node, *layer)));
            for (node, layer) in all {
                let file = checked.sources.get(node.span.file).filter(|_| layer < ConfigLayer::Choice);
                let place = file.map(|file| (file.name.clone(), file.position(node.span.start).line));
                let from =
                    place.as_ref().map_or("--with".to_owned(), |(file, line)| Meaning::Place.paint(&format!("{file}:{line}")));
                links.push(Link { value: node.to_toml(), of: said.path.to_owned(), from, place, outside: said.from_outside });
            }
        }
        if let Some(value) = built_in_style(&steps) {
            let (of, from) = (said.path, "built in".to_owned());
            links.push(Link { value, of: of.to_owned(), from, place: None, outside: said.from_outside });
        }
    }
    let type_ = &checked.rice.r#type;
    let rest = match property {
        "font" => Some((jovrik_toml::quoted(&type_.text), "type.text")),
        "size" => Some((type_.size.0.to_string(), "type.size")),
        _ => None,
    };
    links.extend(rest.map(|(value, of)| Link { value, of: of.to_owned(), from: String::new(), place: None, outside: true }));
    links
}
