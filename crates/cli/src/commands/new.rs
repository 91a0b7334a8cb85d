//! `jovrik new`

use std::path::PathBuf;

use jovrik_home::{SAMPLES, new_rice, sample_files};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Start a rice from a sample that works as it is
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder to make; it may be there when it is empty
    pub dir: PathBuf,
    /// Which sample
    #[arg(long, default_value = "saltmarsh")]
    pub sample: String,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let Some(files) = sample_files(&arguments.sample) else {
        let names: Vec<&str> = SAMPLES.iter().map(|(name, _)| *name).collect();
        return Err(Failure::Usage(format!(
            "there is no sample {}; there is {}",
            arguments.sample,
            jovrik_core::problem::in_words(&names)
        )));
    };
    let folder = context.here.join(&arguments.dir);
    if !arguments.dry_run {
        new_rice(&folder, files)?;
    }
    let out = &mut context.out;
    let verb = if arguments.dry_run { "would write" } else { "wrote" };
    writeln!(out, "{verb} {} files into {}", files.len(), Meaning::Place.paint(&arguments.dir.display().to_string()))?;
    writeln!(out)?;
    for (name, bytes) in files {
        let about =
            std::str::from_utf8(bytes).ok().and_then(|text| text.lines().next()).filter(|line| line.starts_with(['#', '!']));
        let about = about.map(|line| line.trim_start_matches(['#', '!', ' ']).to_owned()).unwrap_or_default();
        writeln!(out, "  {}{}", crate::report::pad(name, 28), Meaning::Second.paint(&about))?;
    }
    writeln!(out)?;
    let dir = arguments.dir.display();
    advice(out, "  ", &format!("cd {dir}"), "every command finds the rice of the folder one is in")?;
    advice(out, "  ", "jovrik check", "says what is wrong, which should be nothing")?;
    advice(out, "  ", "jovrik look --out look.png", "draws the desktop")?;
    Ok(Exit::Done)
}
