//! Hot reload: read, check, compare, and touch only what differs.

use std::hash::{Hash, Hasher};
use std::time::{Duration, Instant};

use jovrik_core::check::Checked;
use jovrik_core::desk::Event;
use jovrik_core::problem::Severity;
use jovrik_core::rice::PointerFocus;
use x11rb::wrapper::ConnectionExt as _;

use super::Session;
use crate::Error;
use crate::keyboard::set_up;

/// How the last reload went.
#[derive(Debug, Default)]
pub(super) struct Reload {
    pub state: &'static str,
    pub problems: Vec<String>,
    pub stages: Vec<(&'static str, Duration)>,
    pub accepted: u64,
    pub refused: u64,
    /// What the files held when they were last read.
    pub seen: u64,
    /// Whether a person asked for the next one.
    pub asked: bool,
}

impl Session {
    /// Reads the rice again: with errors nothing changes, else only what is different.
    pub(super) fn reload(&mut self, since: Instant) -> Result<(), Error> {
        let began = Instant::now();
        let checked = (self.options.load)();
        let read = began.elapsed();
        // One save may tell of itself more than once; what was read already is not judged again, unless that was asked for.
        let seen = std::mem::replace(&mut self.reload.seen, fingerprint(&checked));
        if seen == self.reload.seen && !std::mem::take(&mut self.reload.asked) {
            return Ok(());
        }
        if !checked.usable() {
            self.reload.refused += 1;
            self.reload.state = "refused";
            self.reload.problems = errors(&checked);
            self.reload.stages = vec![("read-and-check", read), ("total", since.elapsed())];
            self.bars_stale = true;
            return Ok(());
        }
        let old = self.options.first.rice.clone();
        // Equal settings stay the very same ones: what did not change is not looked at again.
        let same = *old == *checked.rice;
        let mark = Instant::now();
        let effects = if same { Vec::new() } else { self.desk.handle(Event::Settings(checked.rice.clone())) };
        let difference = mark.elapsed();
        let mark = Instant::now();
        let backdrops = old.backdrop != checked.rice.backdrop
            || old.workspace != checked.rice.workspace
            || old.monitor != checked.rice.monitor;
        if backdrops {
            self.painter.forget_pictures();
            self.painter.remake_backdrop(&checked.rice, &self.desk)?;
            self.backdrop_changes = self.painter.backdrop_changes(&checked.rice, Instant::now());
        }
        if old.frame.radius != checked.rice.frame.radius {
            // No window moves, but the corners of all are cut anew.
            for (id, placed) in &self.desk.arrangement().placed {
                self.seat.round(id.0, placed.area, super::corners(&checked.rice, placed.scale))?;
            }
        }
        self.carry_out(effects)?;
        // A changed backdrop of all is among the effects already.
        if backdrops && old.backdrop == checked.rice.backdrop {
            let areas: Vec<_> = self.desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
            self.painter.paint(&self.seat, &checked.rice, &self.desk, &areas)?;
        }
        if old.pointer != checked.rice.pointer {
            for id in self.desk.windows.keys() {
                self.seat.listen(id.0, checked.rice.pointer.focus == PointerFocus::Enter)?;
            }
        }
        if old.keyboard != checked.rice.keyboard {
            let (connection, root) = (&self.seat.connection, self.seat.root);
            match set_up(connection, root, &checked.rice, &checked.tree, Some(&old.keyboard)) {
                Err(Error::Refused(why)) => self.refused = vec![why],
                other => other?,
            }
            self.keyboard_stale |= old.keyboard.latin_first != checked.rice.keyboard.latin_first;
        }
        if self.scopes != checked.scopes {
            self.scopes = checked.scopes.clone();
            self.bind()?;
        } else if !self.held.is_empty() {
            self.regrab()?;
        }
        if !same {
            self.keep_tray()?;
            let seen = self.desk.bars_seen();
            self.engine.replace(&checked.rice, &|bar| seen.contains(bar), Instant::now());
            self.bars_seen = seen;
            self.engine.step(Instant::now());
            self.tell_workspaces()?;
        }
        let apply = mark.elapsed();
        let mark = Instant::now();
        self.reload.accepted += 1;
        self.reload.state = "accepted";
        self.reload.problems.clear();
        self.close_popup()?;
        if !same {
            self.refresh_sheet()?;
        }
        self.bars_all |= old.palette != checked.rice.palette
            || old.r#type != checked.rice.r#type
            || old.style != checked.rice.style
            || backdrops;
        self.draw_bars()?;
        self.seat.connection.sync()?;
        let paint = mark.elapsed();
        self.reload.stages = vec![
            ("read-and-check", read),
            ("difference", difference),
            ("apply", apply),
            ("paint", paint),
            ("total", since.elapsed()),
        ];
        // Seen first, written down afterwards.
        let before = std::mem::replace(&mut self.options.first, checked);
        (self.options.accepted)(&before, &self.options.first);
        self.start_programs(Some(&old))
    }
}

/// The errors of a rice, one line each: place and sentence.
fn errors(checked: &Checked) -> Vec<String> {
    let here = checked.problems.iter().filter(|problem| problem.severity == Severity::Error && problem.elsewhere.is_none());
    here.map(|problem| match problem.marks.first() {
        Some(mark) => format!("{}: {}", checked.sources.place(mark.span), problem.title),
        None => problem.title.clone(),
    })
    .collect()
}

/// A number for what all files of a rice hold, and which of its overlays are laid.
pub(super) fn fingerprint(checked: &Checked) -> u64 {
    let mut hasher = std::hash::DefaultHasher::new();
    for (_, source) in checked.sources.iter() {
        (&source.name, &source.text).hash(&mut hasher);
    }
    for overlay in &checked.overlays {
        overlay.layer.hash(&mut hasher);
    }
    // Files that could not be read are told of by problems alone.
    for problem in &checked.problems {
        (problem.code, &problem.title).hash(&mut hasher);
    }
    hasher.finish()
}
