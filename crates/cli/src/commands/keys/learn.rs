//! `jovrik keys learn`

use std::io::IsTerminal;

use jovrik_core::keys::{KeyCombo, KeyboardLayout, Reaction, TraceContext, Tracer};
use jovrik_text::problem::in_words;
use jovrik_values::chord::{Chord, ChordKey, ChordSequence, Modifier, Modifiers, sym_name, sym_of};
use ratatui::crossterm::event::{Event, KeyCode, KeyEventKind, KeyModifiers, read};
use ratatui::crossterm::terminal::{disable_raw_mode, enable_raw_mode};
use serde_json::json;

use super::RiceBindings;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Listen to the keyboard, and name what is pressed: symbol, code, place, modifiers, and what is bound there
///
/// On a display the whole keyboard is listened to, and nobody else gets the presses meanwhile; else the terminal, which
/// tells less. Escape twice ends.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Listen to this terminal even where there is a display
    #[arg(long)]
    pub terminal: bool,
    /// End after so many presses
    #[arg(long, value_name = "N")]
    pub count: Option<u32>,
    /// The program that has the focus, or the scope that is open in it
    #[arg(long, value_name = "APP")]
    pub focus: Option<String>,
    /// JSON Lines: chord, symbol, code, name, modifiers, mask, layout, binding
    #[arg(long)]
    pub json: bool,
}

/// One press as it was heard.
struct Heard<'a> {
    chord: Chord,
    /// The press and the server's mask; a terminal tells neither.
    press: Option<(KeyCombo, u32)>,
    keyboard: &'a KeyboardLayout,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    let display = std::env::var("DISPLAY").ok().filter(|display| !display.is_empty() && !arguments.terminal);
    if display.is_none() && !std::io::stdin().is_terminal() {
        return Err(CommandError::Could("there is neither a display nor a terminal to listen to".to_owned()));
    }
    if !arguments.json {
        let where_ = display
            .as_ref()
            .map_or("this terminal, which tells neither codes nor Super".to_owned(), |display| format!("the display {display}"));
        writeln!(context.out, "Listening to {where_}. Escape twice ends.\n")?;
        context.out.flush()?;
    }
    let mut escaped = false;
    let mut count = 0;
    let mut broken = None;
    let mut one = |heard: &Heard<'_>, escape: bool| -> bool {
        broken = tell(heard, &arguments, &bindings, context).err();
        count += 1;
        let done = std::mem::replace(&mut escaped, escape) && escape;
        broken.is_none() && !done && arguments.count.is_none_or(|most| count < most)
    };
    match display {
        Some(display) => {
            let latin = bindings.checked.rice.keyboard.latin_first;
            let heard = |keyboard: &KeyboardLayout, press: KeyCombo, mask: u32| {
                let escape = keyboard.plain_sym(press.key) == sym_of("Escape") && press.modifiers.is_empty();
                one(&Heard { chord: keyboard.chord(press), press: Some((press, mask)), keyboard }, escape)
            };
            jovrik_live::learn(&display, latin, heard)?;
        }
        None => terminal(&bindings, &mut one)?,
    }
    broken.map_or(Ok(Exit::Done), Err)
}

/// Listens to the terminal.
fn terminal(bindings: &RiceBindings, one: &mut dyn FnMut(&Heard<'_>, bool) -> bool) -> Result<(), CommandError> {
    enable_raw_mode()?;
    let done = (|| -> std::io::Result<()> {
        loop {
            let Event::Key(key) = read()? else { continue };
            if key.kind == KeyEventKind::Release {
                continue;
            }
            let Some(chord) = chord_of(key.code, key.modifiers) else { continue };
            // What is written meanwhile is written as usual.
            disable_raw_mode()?;
            let on = one(&Heard { chord, press: None, keyboard: bindings.keyboards.first() }, key.code == KeyCode::Esc);
            enable_raw_mode()?;
            if !on {
                return Ok(());
            }
        }
    })();
    disable_raw_mode()?;
    Ok(done?)
}

/// The chord that a terminal tells of.
fn chord_of(code: KeyCode, held: KeyModifiers) -> Option<Chord> {
    let mut modifiers = Modifiers::default();
    let pairs = [
        (KeyModifiers::CONTROL, Modifier::Ctrl),
        (KeyModifiers::ALT, Modifier::Alt),
        (KeyModifiers::SHIFT, Modifier::Shift),
        (KeyModifiers::SUPER, Modifier::Super),
        (KeyModifiers::HYPER, Modifier::Hyper),
        (KeyModifiers::META, Modifier::Meta),
    ];
    for (word, modifier) in pairs {
        if held.contains(word) {
            modifiers = modifiers.with(modifier);
        }
    }
    let name = match code {
        KeyCode::Char(' ') => "space".to_owned(),
        KeyCode::Char(c) => {
            if c.is_uppercase() {
                modifiers = modifiers.with(Modifier::Shift);
            }
            c.to_lowercase().to_string()
        }
        KeyCode::F(nth) => format!("F{nth}"),
        KeyCode::BackTab => {
            modifiers = modifiers.with(Modifier::Shift);
            "Tab".to_owned()
        }
        KeyCode::Enter => "Return".to_owned(),
        KeyCode::Esc => "Escape".to_owned(),
        KeyCode::Backspace => "BackSpace".to_owned(),
        KeyCode::PageUp => "Prior".to_owned(),
        KeyCode::PageDown => "Next".to_owned(),
        KeyCode::Left
        | KeyCode::Right
        | KeyCode::Up
        | KeyCode::Down
        | KeyCode::Home
        | KeyCode::End
        | KeyCode::Tab
        | KeyCode::Delete
        | KeyCode::Insert => {
            format!("{code:?}")
        }
        _ => return None,
    };
    Some(Chord { modifiers, key: ChordKey::Sym(sym_of(&name)?) })
}

fn tell(heard: &Heard<'_>, arguments: &Arguments, bindings: &RiceBindings, context: &mut Context) -> Result<(), CommandError> {
    let (keyboard, lead) = (heard.keyboard, bindings.checked.lead());
    let keys = ChordSequence(vec![heard.chord.clone()]);
    let press = heard.press.map(|(press, _)| press).or_else(|| keyboard.presses(&heard.chord).first().copied());
    let asking =
        TraceContext { focus: arguments.focus.as_deref().map(|focus| super::trace::inside(bindings, focus)), modes: Vec::new() };
    let step = press.and_then(|press| Some(Tracer::new(bindings.scopes(), keyboard, &asking).ok()?.press(press)));
    let taken = step.as_ref().and_then(|step| step.taker());
    let cap = press.and_then(|press| keyboard.cap(press.key));
    let symbol = press.and_then(|press| keyboard.makes(press)).map(|(sym, _)| sym_name(sym));
    let held: Vec<&str> =
        Modifier::ALL.into_iter().filter(|modifier| heard.chord.modifiers.has(*modifier)).map(Modifier::word).collect();
    let out = &mut context.out;
    if arguments.json {
        let binding = taken.and_then(|(_, reaction)| match reaction {
            Reaction::Takes(at) | Reaction::Waits(at) => Some(bindings.json(bindings.at(at))),
            _ => None,
        });
        let told = json!({
            "chord": keys.with_lead(lead), "symbol": symbol, "code": heard.press.map(|(press, _)| press.key), "name": cap.map(|cap| &cap.name),
            "modifiers": held, "mask": heard.press.map(|(_, mask)| mask), "layout": keyboard.layout, "binding": binding,
        });
        writeln!(out, "{told}")?;
        return Ok(out.flush()?);
    }
    writeln!(out, "{}", Meaning::Heading.paint(&keys.with_lead(lead)))?;
    let by_itself =
        press.and_then(|press| keyboard.plain_sym(press.key)).map(sym_name).filter(|plain| Some(plain) != symbol.as_ref());
    if let Some(symbol) = &symbol {
        let plain = by_itself.map_or(String::new(), |plain| format!("; {plain} by itself"));
        writeln!(out, "  makes  {symbol}{plain}")?;
    }
    if let Some(cap) = cap {
        let code = heard.press.map_or("probably ".to_owned(), |(press, _)| format!("{}, ", press.key));
        writeln!(out, "  key    {code}<{}> of the layout {}", cap.name, keyboard.layout)?;
    }
    if !held.is_empty() {
        let mask = heard.press.map_or(String::new(), |(_, mask)| format!(", mask 0x{mask:02x}"));
        writeln!(out, "  held   {}{mask}", in_words(&held))?;
    }
    let bound = match (taken, step.as_ref().and_then(|step| step.reserved)) {
        (_, Some(why)) => Meaning::Second.paint(why),
        (Some((_, Reaction::Takes(at))), _) => {
            let bound = bindings.at(at);
            format!("{}  {}  {}", bound.meaning(), Meaning::Second.paint(&bindings.scope(bound)), bindings.place(bound))
        }
        (Some((_, Reaction::Waits(at))), _) => {
            let bound = bindings.at(at);
            format!(
                "begins {}  {}  {}",
                bindings.names().whole(bound),
                Meaning::Second.paint(&bindings.scope(bound)),
                bindings.place(bound)
            )
        }
        _ => Meaning::Second.paint("nothing"),
    };
    writeln!(out, "  bound  {bound}\n")?;
    Ok(out.flush()?)
}
