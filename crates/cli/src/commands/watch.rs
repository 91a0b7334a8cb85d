//! `jovrik watch`

use std::path::PathBuf;

use jovrik_core::change::changes;
use jovrik_core::check::CheckedRice;
use jovrik_live::Watch;
use rustix::event::{PollFd, PollFlags, poll};

use super::{check, look};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, problem};

/// On every save: check, and tell what changed; with --look, draw
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Draw the desktop into this PNG or SVG on every save that has no errors
    #[arg(long, value_name = "FILE")]
    pub look: Option<PathBuf>,
    /// End after so many saves
    #[arg(long, value_name = "N", hide = true)]
    pub saves: Option<u32>,
}

fn draw(arguments: &Arguments, context: &mut Context) -> Result<(), CommandError> {
    if let Some(out) = &arguments.look {
        look::run(look::Arguments { out: Some(out.clone()), scale: 1, ..look::Arguments::default() }, context)?;
    }
    Ok(())
}

fn tell(before: &CheckedRice, now: &CheckedRice, context: &mut Context) -> Result<(), CommandError> {
    for change in changes(&before.tree, &now.tree) {
        writeln!(context.out, "{change}")?;
    }
    for one in &now.problems {
        problem::write(&mut context.out, one, &now.sources, context.width)?;
        writeln!(context.out)?;
    }
    writeln!(context.out, "  {}", check::summary(now))?;
    Ok(())
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let folder = context.folder()?;
    let mut watch = Watch::new(&folder, jovrik_home::is_watched)?;
    let mut last = context.checked()?;
    watch.look_after([]);
    writeln!(context.out, "watching {}; {}", Meaning::Place.paint(&context.near(&folder)), check::summary(&last))?;
    if last.usable() {
        draw(&arguments, context)?;
    }
    context.out.flush()?;
    let mut saves = 0;
    while arguments.saves.is_none_or(|most| saves < most) {
        let fd = watch.fd();
        match poll(&mut [PollFd::new(&fd, PollFlags::IN)], None) {
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(error) => return Err(CommandError::Output(error.into())),
        }
        if !watch.saved().settings {
            continue;
        }
        let now = context.checked()?;
        watch.look_after([]);
        // One save may tell of itself more than once.
        let same = now.sources.iter().map(|(_, source)| &source.text).eq(last.sources.iter().map(|(_, source)| &source.text));
        if same {
            continue;
        }
        saves += 1;
        writeln!(context.out)?;
        tell(&last, &now, context)?;
        if now.usable() {
            draw(&arguments, context)?;
        }
        context.out.flush()?;
        last = now;
    }
    Ok(Exit::Done)
}
