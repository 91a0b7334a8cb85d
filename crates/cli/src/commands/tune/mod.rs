//! `jovrik tune`

mod editor;
mod model;
mod picture;
mod view;

use std::io::IsTerminal;
use std::time::Duration;

use ratatui::crossterm::event::{self, Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use model::{Model, Note, TuneMode};
use picture::Picture;
use view::{Depth, View};

/// Change settings on a screen, with a picture of the desktop that follows
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Begin with the settings that hold these words
    pub words: Vec<String>,
    /// Write each change at once, so that a running desktop follows
    #[arg(long)]
    pub follow: bool,
}

/// What a key led to.
enum Next {
    On,
    Leave(Exit),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    if !(std::io::stdout().is_terminal() && std::io::stdin().is_terminal()) {
        return Err(CommandError::NoTerminal);
    }
    let machine = context.facts()?;
    context.go_to_edited_copy()?;
    let mut model = Model::new(context.folder()?, context.copy.clone(), context.home.clone(), context.around()?);
    model.search = arguments.words.join(" ");
    model.follow = arguments.follow;
    let mut picture = Picture::new(machine, context.brush()?);
    let view = View { depth: Depth::of(&|name| std::env::var(name).ok()) };
    let mut terminal = ratatui::try_init()?;
    let done = screen(&mut terminal, &view, &mut model, &mut picture);
    ratatui::try_restore()?;
    done
}

fn screen(
    terminal: &mut ratatui::DefaultTerminal,
    view: &View,
    model: &mut Model,
    picture: &mut Picture,
) -> Result<Exit, CommandError> {
    loop {
        terminal.draw(|frame| view.draw(frame, model, picture))?;
        // What was typed while the screen was drawn is taken in one go.
        loop {
            if let Event::Key(key) = event::read()?
                && key.kind != KeyEventKind::Release
                && let Next::Leave(exit) = press(model, key)
            {
                return Ok(exit);
            }
            if !event::poll(Duration::ZERO)? {
                break;
            }
        }
    }
}

/// What a key does.
fn press(model: &mut Model, key: KeyEvent) -> Next {
    let ctrl = key.modifiers.contains(KeyModifiers::CONTROL);
    if ctrl && key.code == KeyCode::Char('c') {
        return Next::Leave(Exit::Interrupted);
    }
    match model.doing {
        TuneMode::Browsing => return browse(model, key),
        TuneMode::Searching => search(model, key),
        TuneMode::Reading => model.doing = TuneMode::Browsing,
        TuneMode::Editing(_) => edit(model, key),
    }
    Next::On
}

fn browse(model: &mut Model, key: KeyEvent) -> Next {
    let rows = model.shown().len();
    let last = rows.saturating_sub(1);
    let leaving = std::mem::take(&mut model.leaving);
    model.note = None;
    match key.code {
        KeyCode::Up => model.row = model.row.checked_sub(1).unwrap_or(last),
        KeyCode::Down => model.row = if model.row >= last { 0 } else { model.row + 1 },
        KeyCode::PageUp => model.row = model.row.saturating_sub(10),
        KeyCode::PageDown => model.row = (model.row + 10).min(last),
        KeyCode::Home => model.row = 0,
        KeyCode::End => model.row = last,
        KeyCode::Right | KeyCode::Tab => part(model, 1),
        KeyCode::Left | KeyCode::BackTab => part(model, -1),
        KeyCode::Enter => model.edit(),
        KeyCode::Esc => (model.search, model.row) = (String::new(), 0),
        KeyCode::Char('/') => (model.doing, model.search, model.row) = (TuneMode::Searching, String::new(), 0),
        KeyCode::Char('?') => model.doing = TuneMode::Reading,
        KeyCode::Char('t') => model.toggle(),
        KeyCode::Char('r') => model.reset(),
        KeyCode::Char('u') => model.undo(),
        KeyCode::Char('s') => model.save(),
        KeyCode::Char('f') => {
            model.follow = !model.follow;
            if model.follow && model.changed() > 0 {
                model.save();
            }
        }
        KeyCode::Char('q') => {
            let open = model.changed();
            if open == 0 || leaving {
                return Next::Leave(Exit::Done);
            }
            model.leaving = true;
            let changes = jovrik_text::problem::count(open, "change");
            model.note = Some(Note::Refused(format!("{changes} not written: s writes, q again leaves without")));
        }
        _ => {}
    }
    Next::On
}

fn part(model: &mut Model, by: i64) {
    let count = model.parts.len().max(1) as i64;
    model.part = (model.part as i64 + by).rem_euclid(count) as usize;
    (model.search, model.row) = (String::new(), 0);
}

fn search(model: &mut Model, key: KeyEvent) {
    model.row = 0;
    match key.code {
        KeyCode::Esc => (model.doing, model.search) = (TuneMode::Browsing, String::new()),
        KeyCode::Enter | KeyCode::Down => model.doing = TuneMode::Browsing,
        KeyCode::Backspace => {
            model.search.pop();
        }
        KeyCode::Char(c) => model.search.push(c),
        _ => {}
    }
}

/// How far an arrow moves a place, in pixels.
const STEP: i64 = 4;

fn edit(model: &mut Model, key: KeyEvent) {
    let ctrl = key.modifiers.contains(KeyModifiers::CONTROL);
    let TuneMode::Editing(mut editor) = std::mem::replace(&mut model.doing, TuneMode::Browsing) else { return };
    match key.code {
        KeyCode::Esc => return,
        KeyCode::Enter => {
            match editor.plan {
                Ok(planned) if model.touched(&planned).is_empty() => {}
                Ok(planned) => model.accept(planned),
                // It stays open until it can be taken, or is left.
                Err(_) => model.doing = TuneMode::Editing(editor),
            }
            return;
        }
        KeyCode::Up if editor.is_place() => editor.moves(0, -STEP),
        KeyCode::Down if editor.is_place() => editor.moves(0, STEP),
        KeyCode::Left if editor.is_place() => editor.moves(-STEP, 0),
        KeyCode::Right if editor.is_place() => editor.moves(STEP, 0),
        KeyCode::PageUp if editor.is_place() => editor.moves(0, -10 * STEP),
        KeyCode::PageDown if editor.is_place() => editor.moves(0, 10 * STEP),
        KeyCode::Up => editor.step(1),
        KeyCode::Down => editor.step(-1),
        KeyCode::PageUp => editor.step(10),
        KeyCode::PageDown => editor.step(-10),
        KeyCode::Tab => editor.next_slider(model),
        KeyCode::Left => editor.slide(-1),
        KeyCode::Right => editor.slide(1),
        KeyCode::Home => editor.cursor = 0,
        KeyCode::End => editor.cursor = editor.text.chars().count(),
        KeyCode::Backspace => editor.erase(),
        KeyCode::Delete => editor.delete(),
        KeyCode::Char('u') if ctrl => editor.clear(),
        KeyCode::Char(c) if !ctrl => editor.insert(c),
        _ => {}
    }
    editor.try_it(model);
    model.doing = TuneMode::Editing(editor);
}
