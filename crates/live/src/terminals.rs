//! Open terminals follow the palette: those of programs that we started, by the escape sequences that all terminals know.

use std::collections::{BTreeSet, HashMap};
use std::fs::OpenOptions;
use std::io::Write;
use std::os::unix::fs::{MetadataExt, OpenOptionsExt};
use std::path::{Path, PathBuf};

/// More processes than this are not looked through.
const MAX_PROCESSES: usize = 20_000;

/// All processes of the system with those that started them.
fn parents() -> HashMap<u32, u32> {
    let entries = std::fs::read_dir("/proc").into_iter().flatten().flatten().take(MAX_PROCESSES);
    let parent = |number: u32| -> Option<u32> {
        let stat = std::fs::read_to_string(format!("/proc/{number}/stat")).ok()?;
        // After the name, which may hold anything, come the state and the parent.
        stat.rsplit_once(')')?.1.split_whitespace().nth(1)?.parse().ok()
    };
    let number = |entry: std::fs::DirEntry| entry.file_name().to_str().and_then(|name| name.parse().ok());
    entries.filter_map(number).filter_map(|number| Some((number, parent(number)?))).collect()
}

/// The terminals that processes below these have open, as far as they are our own.
fn terminals(programs: &[u32]) -> BTreeSet<PathBuf> {
    let parents = parents();
    let below = |number: u32| {
        let mut at = number;
        // A chain of parents has no rings, unless numbers are used anew meanwhile.
        (0..64).any(|_| {
            let found = programs.contains(&at);
            at = parents.get(&at).copied().unwrap_or(0);
            found
        })
    };
    let own = rustix::process::geteuid().as_raw();
    let open = |number: &u32| std::fs::read_link(format!("/proc/{number}/fd/0")).ok();
    let ours =
        |path: &PathBuf| path.starts_with("/dev/pts") && std::fs::metadata(path).is_ok_and(|metadata| metadata.uid() == own);
    parents.keys().filter(|number| below(**number)).filter_map(open).filter(ours).collect()
}

fn tell(terminal: &Path, text: &str) -> std::io::Result<()> {
    let flags = rustix::fs::OFlags::NOCTTY | rustix::fs::OFlags::NONBLOCK;
    let mut terminal = OpenOptions::new().write(true).custom_flags(flags.bits() as i32).open(terminal)?;
    // One sequence at a time: a terminal that takes no more is not waited for, and gets no half ones.
    text.split_inclusive("\x1b\\").try_for_each(|sequence| terminal.write_all(sequence.as_bytes()))
}

/// Recolours the terminals below programs.
pub fn recolour(programs: &[u32], text: &str) {
    for terminal in terminals(programs) {
        if let Err(error) = tell(&terminal, text) {
            tracing::debug!(?terminal, %error, "not recoloured");
        }
    }
}
