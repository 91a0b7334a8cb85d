//! `jovrik keys sheet`

use std::path::{Path, PathBuf};

use jovrik_core::keys::{BindingTarget, ModifierLayer, SheetFilter, layers};
use jovrik_core::scene::{Scene, Sheet, keyboard as draw_keyboard, scope_role, sheet};
use jovrik_draw::{Canvas, encode, svg, svg_in_page};
use jovrik_text::problem::count;
use jovrik_values::Rect;

use super::RiceBindings;
use super::list::Filter;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};

/// Make the cheat sheet: in the terminal, as Markdown, HTML, PNG or SVG
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The file to write, by its ending: md, html, png or svg
    #[arg(long, value_name = "FILE")]
    pub out: Option<PathBuf>,
    /// Only the bindings of this scope
    #[arg(long, add = crate::complete::scope())]
    pub scope: Option<String>,
    /// Only those of this mode; plain are those outside of any
    #[arg(long, add = crate::complete::mode())]
    pub mode: Option<String>,
    /// Only the layer of these modifiers, as its heading says
    #[arg(long)]
    pub layer: Option<String>,
    /// Also what programs bind by themselves
    #[arg(long)]
    pub known: bool,
    /// The layout that is drawn
    #[arg(long)]
    pub layout: Option<String>,
    /// How wide the picture is, in pixels
    #[arg(long, value_name = "PIXELS", default_value_t = 1280, value_parser = clap::value_parser!(u32).range(600..=8000))]
    pub width: u32,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    Filter { scope: arguments.scope.as_deref(), mode: arguments.mode.as_deref(), ..Filter::default() }.check(&bindings)?;
    let keyboard = bindings.keyboard(arguments.layout.as_deref())?;
    let scope =
        arguments.scope.as_ref().and_then(|name| bindings.scopes().readers.iter().position(|reader| reader.name == *name));
    let shown = SheetFilter { scope, mode: arguments.mode.as_deref(), known: arguments.known };
    let mut layers = layers(&bindings.names(), keyboard, shown);
    if let Some(asked) = &arguments.layer {
        let titles: Vec<String> = layers.iter().map(|layer| layer.title.clone()).collect();
        layers.retain(|layer| layer.title.eq_ignore_ascii_case(asked));
        if layers.is_empty() {
            return Err(CommandError::Usage(format!(
                "there is no layer {asked}: there are {}",
                jovrik_text::problem::in_words(&titles)
            )));
        }
    }
    let title = format!("Keys of {}", bindings.checked.manifest.rice.name);
    let Some(path) = &arguments.out else { return terminal(&title, &layers, &bindings, context) };
    let ending = path.extension().and_then(|ending| ending.to_str()).unwrap_or_default().to_ascii_lowercase();
    let rice = &bindings.checked.rice;
    let scopes: Vec<String> = bindings.scopes().readers.iter().map(|reader| reader.name.clone()).collect();
    let draw =
        |layers: &[ModifierLayer], title: &str, context: &Context| -> Result<(Scene, Rect, jovrik_draw::Brush), CommandError> {
            let mut brush = context.brush()?;
            let mut own = Scene::default();
            let what = Sheet { title, layers, keyboard, scopes: &scopes, drawn: layers.len(), most: usize::MAX };
            let width = arguments.width as f32;
            let height = sheet(rice, &what, Rect::new(0.0, 0.0, width, 0.0), &mut own, &mut brush.fonts).ceil();
            // A picture has no corners to see through.
            let mut scene = Scene::default();
            scene.fill(Rect::new(0.0, 0.0, width, height), 0.0, rice.palette.current.paper);
            scene.items.extend(own.items);
            Ok((scene, Rect::new(0.0, 0.0, width, height), brush))
        };
    let bytes: Vec<u8> = match ending.as_str() {
        "png" => {
            let (scene, area, mut brush) = draw(&layers, &title, context)?;
            let mut canvas = Canvas::new(area.w as u32, area.h as u32)
                .ok_or_else(|| CommandError::Usage("the picture would be too large".to_owned()))?;
            canvas.draw(&scene, (0.0, 0.0), &mut brush);
            encode(&canvas).map_err(|error| CommandError::Usage(error.to_string()))?
        }
        "svg" => {
            let (scene, area, mut brush) = draw(&layers, &title, context)?;
            svg(&scene, area, &mut brush).into_bytes()
        }
        "md" => markdown(&title, &layers, &bindings).into_bytes(),
        "html" => {
            let mut brush = context.brush()?;
            let what = Sheet { title: "", layers: &layers, keyboard, scopes: &scopes, drawn: 0, most: usize::MAX };
            let mut drawing = |layer: &ModifierLayer| {
                let (mut scene, width) = (Scene::default(), arguments.width as f32);
                let height = draw_keyboard(rice, &what, layer, Rect::new(0.0, 0.0, width, 0.0), &mut scene, &mut brush.fonts);
                svg_in_page(&scene, Rect::new(0.0, 0.0, width, height.ceil()), &mut brush)
            };
            let drawings: Vec<String> = layers.iter().map(&mut drawing).collect();
            page(&title, &layers, &drawings, &scopes, &bindings).into_bytes()
        }
        other => {
            return Err(CommandError::Usage(format!(
                "a sheet ends in md, html, png or svg, not in {}",
                if other.is_empty() { "nothing" } else { other }
            )));
        }
    };
    let whole = if path.is_absolute() { path.clone() } else { context.here.join(path) };
    std::fs::write(&whole, bytes)?;
    let all: usize = layers.iter().map(|layer| layer.entries.len()).sum();
    writeln!(
        context.out,
        "wrote {}: {} in {}",
        Meaning::Place.paint(&shown_path(path)),
        count(all, "binding"),
        count(layers.len(), "layer")
    )?;
    Ok(Exit::Done)
}

fn shown_path(path: &Path) -> String {
    path.display().to_string()
}

/// Layers as columns of keys and what they do.
fn terminal(title: &str, layers: &[ModifierLayer], bindings: &RiceBindings, context: &mut Context) -> Result<Exit, CommandError> {
    let several = bindings.scopes().readers_used() > 1;
    let out = &mut context.out;
    writeln!(out, "{}", Meaning::Heading.paint(title))?;
    for layer in layers {
        writeln!(out, "\n{}", Meaning::Heading.paint(&layer.title))?;
        // Two columns of keys side by side where the window is wide enough.
        let half = if context.width >= 100 { layer.entries.len().div_ceil(2) } else { layer.entries.len() };
        let cells = |entry: &jovrik_core::keys::SheetEntry| {
            let says =
                if entry.clash { Meaning::Error.paint(&format!("{}  in a fight", entry.says)) } else { entry.says.clone() };
            let scope = bindings.scope(bindings.at(entry.bound));
            let mut row = vec![Meaning::Type.paint(&entry.chord), says];
            row.extend(several.then(|| Meaning::Second.paint(&scope)));
            row
        };
        let rows: Vec<Vec<String>> = (0..half)
            .map(|nth| {
                let right = layer.entries.get(half + nth).filter(|_| half < layer.entries.len());
                [Some(&layer.entries[nth]), right].into_iter().flatten().flat_map(cells).collect()
            })
            .collect();
        for line in columns(&rows, "  ", context.width) {
            writeln!(out, "{}", line.trim_end())?;
        }
    }
    let all: usize = layers.iter().map(|layer| layer.entries.len()).sum();
    writeln!(out, "\n{} in {}; Lead is {}", count(all, "binding"), count(layers.len(), "layer"), bindings.checked.lead().word())?;
    Ok(Exit::Done)
}

fn markdown(title: &str, layers: &[ModifierLayer], bindings: &RiceBindings) -> String {
    let cell = |text: &str| text.replace('\\', "\\\\").replace('|', "\\|");
    let mut text = format!("# {title}\n\nLead is {}.\n", bindings.checked.lead().word());
    for layer in layers {
        text.push_str(&format!("\n## {}\n\n| keys | does | scope |\n|---|---|---|\n", cell(&layer.title)));
        for entry in &layer.entries {
            let scope = bindings.scope(bindings.at(entry.bound));
            let clash = if entry.clash { " (in a fight)" } else { "" };
            text.push_str(&format!("| `{}` | {}{clash} | {} |\n", cell(&entry.chord), cell(&entry.says), cell(&scope)));
        }
    }
    text
}

/// What bindings are about, in the order of a page: the word of the table of actions, and a heading.
const ABOUT: &[(&str, &str)] = &[
    ("programs", "Programs"),
    ("windows", "Windows"),
    ("workspaces", "Workspaces"),
    ("layouts", "Layouts"),
    ("bar", "Bars"),
    ("session", "Session"),
    ("keys", "Keys and modes"),
];

fn safe(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// A heading, and rows below it: chords, what they do, whether they fight.
type Group = (String, Vec<(String, String, bool)>);

/// All bindings by what they are about, those of other programs by the program.
fn by_topic(layers: &[ModifierLayer], bindings: &RiceBindings) -> Vec<Group> {
    let scopes = bindings.scopes();
    let mut groups: Vec<Group> = ABOUT.iter().map(|(_, heading)| ((*heading).to_owned(), Vec::new())).collect();
    for layer in layers {
        for entry in &layer.entries {
            let bound = bindings.at(entry.bound);
            let table = &scopes.tables[bound.table];
            let heading = match (&bound.what, table.scope, &table.mode) {
                (BindingTarget::Act(action), 0, None) => {
                    ABOUT.iter().find(|(part, _)| *part == action.part()).map(|(_, heading)| (*heading).to_owned())
                }
                (_, 0, Some(mode)) => Some(format!("In the mode {mode}")),
                _ => Some(format!("In {}", bindings.scope(bound))),
            };
            let heading = heading.unwrap_or_else(|| "Session".to_owned());
            let row = (entry.chord.clone(), entry.says.clone(), entry.clash);
            match groups.iter_mut().find(|(own, _)| *own == heading) {
                Some((_, rows)) => rows.push(row),
                None => groups.push((heading, vec![row])),
            }
        }
    }
    groups.retain(|(_, rows)| !rows.is_empty());
    groups
}

/// The look of a page: one family, columns as many as there is room for, a sheet of paper when it is printed.
const PAGE: &str = "*{box-sizing:border-box}\
body{margin:0 auto;max-width:82rem;padding:2rem 1.25rem;background:var(--paper);color:var(--ink);font:0.95rem/1.5 \"DejaVu Sans\",system-ui,sans-serif}\
h1{font-size:1.5rem;margin:0}h2{font-size:1rem;margin:0 0 .5rem;color:var(--accent)}p{margin:.25rem 0 1.5rem;color:var(--muted)}\
.list{columns:19rem;column-gap:2.5rem;margin-bottom:2.5rem}.list section{break-inside:avoid;margin:0 0 1.5rem}\
dl{margin:0;display:grid;grid-template-columns:minmax(0,max-content) minmax(0,1fr);gap:.1rem 1rem}dt,dd{margin:0;overflow-wrap:anywhere}\
kbd{font:inherit;color:var(--ink);white-space:pre-wrap}dd{color:var(--muted)}.clash kbd,.clash{color:var(--alert)}\
figure{margin:0 0 2rem}figcaption{margin:0 0 .5rem;font-weight:bold}.board{overflow-x:auto}svg{display:block;width:100%;min-width:46rem;height:auto}\
svg text{font-family:inherit}.legend{display:flex;flex-wrap:wrap;gap:.25rem 1.25rem;margin-bottom:1.5rem;color:var(--muted)}\
.legend span::before{content:\"\";display:inline-block;width:.7rem;height:.7rem;border-radius:.2rem;margin-right:.4rem;background:var(--own)}\
@media print{@page{size:landscape;margin:8mm}body{max-width:none;padding:0;background:none;color:#000;font-size:7.6pt;line-height:1.25}h1{font-size:12pt;margin-bottom:2mm}p,.legend,figure{display:none}\
h2{color:#000;margin:0 0 .1rem;font-size:8.5pt}.list{columns:4;column-gap:5mm;margin:0}.list section{margin:0 0 3mm}dl{gap:0 2mm}dd,kbd{color:#000}}";

/// One page without scripts and without anything from elsewhere: what the keys do, by what that is about, then the keyboard layer by layer.
fn page(title: &str, layers: &[ModifierLayer], drawings: &[String], scopes: &[String], bindings: &RiceBindings) -> String {
    let palette = &bindings.checked.rice.palette.current;
    let mut list = String::new();
    for (heading, rows) in by_topic(layers, bindings) {
        list.push_str(&format!("<section>\n<h2>{}</h2>\n<dl>\n", safe(&heading)));
        for (chord, says, clash) in rows {
            let class = if clash { " class=\"clash\"" } else { "" };
            let fight = if clash { " (in a fight)" } else { "" };
            list.push_str(&format!("<dt{class}><kbd>{}</kbd></dt><dd{class}>{}{fight}</dd>\n", safe(&chord), safe(&says)));
        }
        list.push_str("</dl>\n</section>\n");
    }
    let shown = |scope: usize| layers.iter().flat_map(|layer| &layer.entries).any(|entry| entry.scope == scope);
    let named = scopes.iter().enumerate().filter(|(at, _)| shown(*at)).filter_map(|(at, name)| {
        let colour = palette.role(scope_role(at))?.hex();
        Some(format!("<span style=\"--own:{colour}\">{}</span>", safe(name)))
    });
    let legend: String = named.collect();
    let boards: String = layers
        .iter()
        .zip(drawings)
        .map(|(layer, drawing)| {
            format!(
                "<figure>\n<figcaption>{}</figcaption>\n<div class=\"board\">{drawing}</div>\n</figure>\n",
                safe(&layer.title)
            )
        })
        .collect();
    let roles = ["paper", "ink", "muted", "accent", "alert"]
        .iter()
        .filter_map(|role| Some(format!("--{role}:{};", palette.role(role)?.hex())));
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
         <title>{title}</title>\n<style>\n:root{{{roles}}}\n{PAGE}\n</style>\n</head>\n<body>\n<h1>{title}</h1>\n<p>Lead is {lead}.</p>\n\
         <div class=\"list\">\n{list}</div>\n<div class=\"legend\">{legend}</div>\n{boards}</body>\n</html>\n",
        title = safe(title),
        roles = roles.collect::<String>(),
        lead = bindings.checked.lead().word(),
    )
}
