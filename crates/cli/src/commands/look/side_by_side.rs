//! Another state beside this one, with what differs marked and listed.

use std::path::Path;

use jovrik_core::change::{Change, changes};
use jovrik_core::check::{CheckedRice, OverlayHost, check};
use jovrik_core::machine::Machine;
use jovrik_core::scene::{Primitive, Scene, TextStyle};
use jovrik_draw::{Brush, Canvas, differences, read_picture};
use jovrik_home::{History, files_at};
use jovrik_text::problem::{Severity, in_words};
use jovrik_values::Rect;

use super::ElementsInState;
use crate::context::Context;
use crate::exit::CommandError;

/// What stands beside: a picture as it is, or a state that is drawn.
pub enum CompareTarget {
    /// Pixels from a file.
    Picture(Canvas),
    /// Another state of this rice, or another rice.
    State(Box<ElementsInState>),
}

impl CompareTarget {
    /// Reads what is named: a palette, `PATH=VALUE`, an overlay, `#N` of the history, a machine, a rice's folder, or a
    /// picture.
    pub fn parse(text: &str, this: &ElementsInState, context: &Context) -> Result<CompareTarget, CommandError> {
        let state = |checked: CheckedRice, machine: Machine| {
            Ok(CompareTarget::State(Box::new(ElementsInState { checked, machine, folder: this.folder.clone() })))
        };
        let folder = context.folder()?;
        let here = || context.this_computer().meeting(Some(this.machine.clone()));
        let with = |pair: (String, String)| {
            let mut with = context.with.clone();
            with.push(pair);
            fit(jovrik_home::check_folder(&folder, &with, &OverlayHost { around: &here(), elsewhere: false }))
        };
        if this.checked.rice.palette.all.contains_key(text) {
            return state(with(("palette.use".to_owned(), text.to_owned()))?, this.machine.clone());
        }
        if let Some((path, value)) = text.split_once('=').filter(|(path, _)| path.contains('.')) {
            return state(with((path.trim().to_owned(), value.trim().to_owned()))?, this.machine.clone());
        }
        let overlay = format!("overlays/{text}.toml");
        if folder.join(&overlay).is_file() {
            let around = here().forcing(Some(overlay));
            let checked = jovrik_home::check_folder(&folder, &context.with, &OverlayHost { around: &around, elsewhere: false });
            return state(fit(checked)?, this.machine.clone());
        }
        if let Some(id) = text.strip_prefix('#').and_then(|id| id.parse::<i64>().ok()) {
            let none = || CommandError::Usage(format!("there is no entry {id}; jovrik history lists them"));
            let history = History::open_existing(&context.home.history())?.ok_or_else(none)?;
            let (files, _) = files_at(&folder, &history, id)?.ok_or_else(none)?;
            let checked = check(files, &context.with, &OverlayHost { around: &here(), elsewhere: false });
            return state(fit(checked)?, this.machine.clone());
        }
        if folder.join("machines").join(format!("{text}.toml")).is_file() {
            let machine = context.facts_at(Some(Path::new(text)))?;
            return state(context.usable_on(&machine)?, machine);
        }
        let path = context.here.join(text);
        if path.join("rice.toml").is_file() {
            let checked =
                fit(jovrik_home::check_folder(&path, &context.with, &OverlayHost { around: &here(), elsewhere: false }))?;
            return Ok(CompareTarget::State(Box::new(ElementsInState { checked, machine: this.machine.clone(), folder: path })));
        }
        if path.is_file() {
            let unread = |why: String| CommandError::Usage(format!("{text}: {why}"));
            let picture = read_picture(&path, u32::MAX).map_err(|error| unread(error.to_string()))?;
            let canvas = Canvas::of_picture(&picture).ok_or_else(|| unread("it is too large".to_owned()))?;
            return Ok(CompareTarget::Picture(canvas));
        }
        let palettes: Vec<&str> = this.checked.rice.palette.all.keys().map(String::as_str).collect();
        let palettes = if palettes.is_empty() { String::new() } else { format!(" ({})", in_words(&palettes)) };
        Err(CommandError::Usage(format!(
            "--beside takes a palette{palettes}, PATH=VALUE, an overlay, #N of the history, a machine, a rice's folder or a picture; {text} is none of them"
        )))
    }
}

fn fit(checked: CheckedRice) -> Result<CheckedRice, CommandError> {
    let errors = checked.problems.iter().any(|problem| problem.severity == Severity::Error && problem.elsewhere.is_none());
    if errors { Err(CommandError::Unfit(Box::new(checked))) } else { Ok(checked) }
}

/// Two pictures side by side.
pub struct Pair {
    /// Both.
    pub canvas: Canvas,
    /// Where they differ.
    pub areas: Vec<Rect>,
    /// Whether nearly all of it differs, so that nothing is marked.
    pub everywhere: bool,
}

/// Between two pictures, and above them.
const GAP: u32 = 24;
const HEAD: u32 = 44;

/// Puts two pictures next to each other, or below each other when that is nearer to a square.
pub fn pair(this: &Canvas, other: &Canvas, names: (&str, &str), state: &ElementsInState, brush: &mut Brush) -> Option<Pair> {
    let areas = differences(this, other);
    let covered: f32 = areas.iter().map(|area| area.w * area.h).sum();
    let whole = this.width() as f32 * this.height() as f32;
    let everywhere = covered > whole * 0.6;
    let palette = &state.checked.rice.palette.current;
    let below = this.width() > this.height() * 5 / 2;
    let (w, h) = (this.width().max(other.width()), this.height().max(other.height()));
    let (width, height) = if below { (w + 2 * GAP, 2 * (h + HEAD) + GAP) } else { (2 * w + 3 * GAP, h + HEAD + GAP) };
    let mut canvas = Canvas::new(width, height)?;
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, width as f32, height as f32), 0.0, palette.raise);
    let seconds = if below { (GAP, h + 2 * HEAD) } else { (w + 2 * GAP, HEAD) };
    let places = [(GAP, HEAD), seconds];
    let face = TextStyle::new(&state.checked.rice.r#type.text, 11.0);
    for ((x, y), name) in places.iter().zip([names.0, names.1]) {
        scene.text(*x as f32, *y as f32 - 20.0, name, &face, palette.ink);
    }
    canvas.draw(&scene, (0.0, 0.0), brush);
    for (place, picture) in places.into_iter().zip([this, other]) {
        canvas.paste(picture, place);
    }
    let mut marks = Scene::default();
    for (x, y) in places.iter().filter(|_| !everywhere) {
        for area in &areas {
            let rect = Rect { x: area.x + *x as f32, y: area.y + *y as f32, ..*area }.grown(3.0);
            marks.items.push(Primitive::Border { rect, radius: [4.0; 4], width: 2.0, fill: palette.warn.into() });
        }
    }
    canvas.draw(&marks, (0.0, 0.0), brush);
    Some(Pair { canvas, areas, everywhere })
}

/// The settings that differ between two states.
pub fn settings(this: &ElementsInState, other: &ElementsInState) -> Vec<Change> {
    changes(&this.checked.tree, &other.checked.tree)
}
