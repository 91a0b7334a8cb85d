//! `jovrik keys sheet`

use std::path::{Path, PathBuf};

use jovrik_core::keys::{Layer, Shown, layers};
use jovrik_core::problem::count;
use jovrik_core::scene::{Rect, Scene, Sheet, sheet};
use jovrik_draw::{Canvas, encode, svg};

use super::Bindings;
use super::list::Filter;
use crate::context::Context;
use crate::exit::{Exit, Failure};
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

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let bindings = Bindings::read(context)?;
    Filter { scope: arguments.scope.as_deref(), mode: arguments.mode.as_deref(), ..Filter::default() }.check(&bindings)?;
    let keyboard = bindings.keyboard(arguments.layout.as_deref())?;
    let scope =
        arguments.scope.as_ref().and_then(|name| bindings.scopes().readers.iter().position(|reader| reader.name == *name));
    let shown = Shown { scope, mode: arguments.mode.as_deref(), known: arguments.known };
    let mut layers = layers(&bindings.names(), keyboard, shown);
    if let Some(asked) = &arguments.layer {
        let titles: Vec<String> = layers.iter().map(|layer| layer.title.clone()).collect();
        layers.retain(|layer| layer.title.eq_ignore_ascii_case(asked));
        if layers.is_empty() {
            return Err(Failure::Usage(format!(
                "there is no layer {asked}: there are {}",
                jovrik_core::problem::in_words(&titles)
            )));
        }
    }
    let title = format!("Keys of {}", bindings.checked.manifest.rice.name);
    let Some(path) = &arguments.out else { return terminal(&title, &layers, &bindings, context) };
    let ending = path.extension().and_then(|ending| ending.to_str()).unwrap_or_default().to_ascii_lowercase();
    let rice = &bindings.checked.rice;
    let scopes: Vec<String> = bindings.scopes().readers.iter().map(|reader| reader.name.clone()).collect();
    let draw = |layers: &[Layer], title: &str, context: &Context| -> Result<(Scene, Rect, jovrik_draw::Brush), Failure> {
        let mut brush = context.brush()?;
        let mut own = Scene::default();
        let what = Sheet { title, layers, keyboard, scopes: &scopes, drawn: layers.len() };
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
                .ok_or_else(|| Failure::Usage("the picture would be too large".to_owned()))?;
            canvas.draw(&scene, (0.0, 0.0), &mut brush);
            encode(&canvas).map_err(|error| Failure::Usage(error.to_string()))?
        }
        "svg" => {
            let (scene, area, mut brush) = draw(&layers, &title, context)?;
            svg(&scene, area, &mut brush).into_bytes()
        }
        "md" => markdown(&title, &layers, &bindings).into_bytes(),
        "html" => {
            let mut drawings = Vec::new();
            for layer in &layers {
                let (scene, area, mut brush) = draw(std::slice::from_ref(layer), &layer.title, context)?;
                drawings.push(svg(&scene, area, &mut brush));
            }
            page(&title, &layers, &drawings, &bindings).into_bytes()
        }
        other => {
            return Err(Failure::Usage(format!(
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
fn terminal(title: &str, layers: &[Layer], bindings: &Bindings, context: &mut Context) -> Result<Exit, Failure> {
    let several = bindings.scopes().readers_used() > 1;
    let out = &mut context.out;
    writeln!(out, "{}", Meaning::Heading.paint(title))?;
    for layer in layers {
        writeln!(out, "\n{}", Meaning::Heading.paint(&layer.title))?;
        // Two columns of keys side by side where the window is wide enough.
        let half = if context.width >= 100 { layer.entries.len().div_ceil(2) } else { layer.entries.len() };
        let cells = |entry: &jovrik_core::keys::Entry| {
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

fn markdown(title: &str, layers: &[Layer], bindings: &Bindings) -> String {
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

/// One page without scripts and without anything from elsewhere.
fn page(title: &str, layers: &[Layer], drawings: &[String], bindings: &Bindings) -> String {
    let safe = |text: &str| text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;");
    let palette = &bindings.checked.rice.palette.current;
    let mut body = String::new();
    for (layer, drawing) in layers.iter().zip(drawings) {
        body.push_str(&format!("<section>\n<h2>{}</h2>\n<figure>{drawing}</figure>\n<table>\n", safe(&layer.title)));
        for entry in &layer.entries {
            let scope = bindings.scope(bindings.at(entry.bound));
            let class = if entry.clash { " class=\"clash\"" } else { "" };
            body.push_str(&format!(
                "<tr{class}><td><kbd>{}</kbd></td><td>{}</td><td>{}</td></tr>\n",
                safe(&entry.chord),
                safe(&entry.says),
                safe(&scope)
            ));
        }
        body.push_str("</table>\n</section>\n");
    }
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width\">\n<title>{title}</title>\n<style>\n\
         body {{ margin: 0 auto; max-width: 80rem; padding: 2rem; background: {paper}; color: {ink}; font: 1rem/1.5 sans-serif; }}\n\
         h1 {{ font-size: 1.4rem; }}\nh2 {{ font-size: 1.1rem; margin-top: 2.5rem; }}\nfigure {{ margin: 0; }}\nsvg {{ width: 100%; height: auto; }}\n\
         table {{ border-collapse: collapse; }}\ntd {{ padding: .15rem 1.5rem .15rem 0; }}\ntd:last-child {{ color: {muted}; }}\nkbd {{ font-family: monospace; }}\n.clash kbd {{ color: {alert}; }}\n\
         </style>\n</head>\n<body>\n<h1>{title}</h1>\n<p>Lead is {lead}.</p>\n{body}</body>\n</html>\n",
        title = safe(title),
        paper = palette.paper.hex(),
        ink = palette.ink.hex(),
        muted = palette.muted.hex(),
        alert = palette.alert.hex(),
        lead = bindings.checked.lead().word(),
    )
}
