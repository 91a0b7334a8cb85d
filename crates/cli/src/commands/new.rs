//! `jovrik new`

use std::path::PathBuf;

use jovrik_core::rice::every_setting;
use jovrik_home::{FURNITURE, PLAIN, SAMPLES, new_rice, sample_files};

use super::plain;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advise, columns};

/// Start a rice from a sample that works as it is
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder to make; it may be there when it is empty
    pub dir: PathBuf,
    /// Which sample
    #[arg(long, default_value = "saltmarsh", conflicts_with = "plain")]
    pub sample: String,
    /// Ordinary names and the programs of this computer, instead of a sample
    #[arg(long)]
    pub plain: bool,
    /// Without the furniture: neither widgets nor dock nor greeting
    #[arg(long)]
    pub bare: bool,
    /// Beside the sample: a file with each setting, its help and its default, as comments
    #[arg(long)]
    pub every_setting: bool,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// A file as editors take it: settings name their schema, which `jovrik schema --write` writes.
fn for_editors(name: &str, bytes: &[u8]) -> Vec<u8> {
    let line: &[u8] =
        if name.starts_with("parts/") || name.starts_with("overlays/") { b"#:schema ../schema.json\n" } else { b"" };
    [line, bytes].concat()
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let sample = if arguments.plain { Some(PLAIN) } else { sample_files(&arguments.sample) };
    let Some(files) = sample else {
        let names: Vec<&str> = SAMPLES.iter().map(|(name, _)| *name).collect();
        return Err(CommandError::Usage(format!(
            "there is no sample {}; there is {}",
            arguments.sample,
            jovrik_text::problem::in_words(&names)
        )));
    };
    let every = every_setting();
    let programs = if arguments.plain { plain::programs() } else { String::new() };
    let mut own = files.to_vec();
    own.retain(|(name, _)| !arguments.bare || !FURNITURE.contains(name));
    if arguments.plain {
        own.push(("parts/programs.toml", programs.as_bytes()));
    }
    if arguments.every_setting {
        own.push(("parts/every-setting.toml", every.as_bytes()));
    }
    // The first lines of its parts name it.
    let schema = super::schema::text("parts")?;
    own.push(("schema.json", schema.as_bytes()));
    let texts: Vec<Vec<u8>> = own.iter().map(|(name, bytes)| for_editors(name, bytes)).collect();
    let files: Vec<(&str, &[u8])> = own.iter().zip(&texts).map(|((name, _), text)| (*name, text.as_slice())).collect();
    let folder = context.here.join(&arguments.dir);
    if !arguments.dry_run {
        new_rice(&folder, &files)?;
    }
    let out = &mut context.out;
    let verb = if arguments.dry_run { "would write" } else { "wrote" };
    writeln!(out, "{verb} {} files into {}", files.len(), Meaning::Place.paint(&arguments.dir.display().to_string()))?;
    writeln!(out)?;
    let row = |(name, bytes): &(&str, &[u8])| {
        let text = std::str::from_utf8(bytes).unwrap_or_default();
        let first = text.lines().find(|line| !line.starts_with("#:")).unwrap_or_default();
        let about = if *name == "schema.json" {
            "What editors know of the settings."
        } else if first.starts_with(['#', '!']) {
            first.trim_start_matches(['#', '!', ' '])
        } else {
            ""
        };
        vec![(*name).to_owned(), about.to_owned()]
    };
    let rows: Vec<Vec<String>> = files.iter().map(row).collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out)?;
    let next = [
        (format!("cd {}", arguments.dir.display()), "every command finds the rice of its folder"),
        ("jovrik check".to_owned(), "says what is wrong, which should be nothing"),
        ("jovrik look".to_owned(), "draws the desktop"),
    ];
    advise(out, "  ", &next)?;
    Ok(Exit::Done)
}
