//! Programs and all that they started: ended together, also children that left their group or outlived them.
//!
//! Whatever is started here carries a mark in its environment, which children inherit. Who is to be ended is found by that
//! mark and by who started whom, in `/proc`. A guard, which is a process of its own, does the same when this one is gone
//! without having done it.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Read;
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Duration;

use rustix::process::{Pid, Signal, kill_process, kill_process_group};

/// The variable that holds the mark.
const VARIABLE: &str = "JOVRIK_RUN";
/// How often it is looked again whether somebody is left.
const MAX_ROUNDS: usize = 50;

/// The mark of all that this process starts.
fn token() -> &'static str {
    static TOKEN: OnceLock<String> = OnceLock::new();
    TOKEN.get_or_init(|| {
        let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |time| time.as_nanos());
        format!("{}-{now:x}", std::process::id())
    })
}

/// The programs of one module, one after another, and all that they started.
#[derive(Debug)]
pub(crate) struct ProcessTree {
    mark: String,
    used: AtomicBool,
}

impl ProcessTree {
    /// A family without members.
    pub fn new() -> ProcessTree {
        static NEXT: AtomicU64 = AtomicU64::new(0);
        ProcessTree { mark: format!("{}.{}.", token(), NEXT.fetch_add(1, Ordering::Relaxed)), used: AtomicBool::new(false) }
    }

    /// Marks what is about to be started, in a process group of its own.
    pub fn take_in(&self, command: &mut Command) {
        self.used.store(true, Ordering::Relaxed);
        command.env(VARIABLE, &self.mark).process_group(0);
    }

    /// Ends a program that still runs, and the whole family.
    pub fn end(&self, child: &mut Child) {
        if matches!(child.try_wait(), Ok(Some(_))) {
            return;
        }
        let root = Pid::from_child(child);
        let below = below(&processes(), root.as_raw_nonzero().get());
        let _ = kill_process_group(root, Signal::KILL);
        below.into_iter().for_each(kill);
        let _ = child.wait();
        self.end_all();
    }

    /// Ends whoever is left of the family.
    pub fn end_all(&self) {
        if self.used.load(Ordering::Relaxed) {
            end_marked(&self.mark);
        }
    }
}

fn kill(process: i32) {
    if let Some(process) = Pid::from_raw(process).filter(|_| process > 1) {
        let _ = kill_process(process, Signal::KILL);
    }
}

/// All processes that live, and who started each.
fn processes() -> BTreeMap<i32, i32> {
    let entries = std::fs::read_dir("/proc").into_iter().flatten();
    let one = |entry: std::io::Result<std::fs::DirEntry>| {
        let entry = entry.ok()?;
        let process: i32 = entry.file_name().to_str()?.parse().ok()?;
        let stat = std::fs::read_to_string(entry.path().join("stat")).ok()?;
        // The name in brackets may hold anything.
        let mut fields = stat[stat.rfind(')')? + 1..].split_whitespace();
        let (state, parent) = (fields.next()?, fields.next()?.parse().ok()?);
        (state != "Z" && state != "X").then_some((process, parent))
    };
    entries.filter_map(one).collect()
}

/// Whoever a process started, and whom those started.
fn below(all: &BTreeMap<i32, i32>, root: i32) -> BTreeSet<i32> {
    let mut found = BTreeSet::new();
    let mut next = vec![root];
    while let Some(parent) = next.pop() {
        for (process, _) in all.iter().filter(|(_, own)| **own == parent) {
            if found.insert(*process) {
                next.push(*process);
            }
        }
    }
    found
}

/// Whether a process carries a mark that begins so.
fn carries(process: i32, mark: &[u8]) -> bool {
    let path = Path::new("/proc").join(process.to_string()).join("environ");
    let environment = std::fs::read(path).unwrap_or_default();
    environment.split(|byte| *byte == 0).any(|variable| variable.starts_with(mark))
}

/// Ends every process whose mark begins so, and whoever those started, until nobody is left; the number of rounds is bounded.
pub fn end_marked(mark: &str) {
    let mark = format!("{VARIABLE}={mark}").into_bytes();
    let own = std::process::id() as i32;
    for _ in 0..MAX_ROUNDS {
        let all = processes();
        let marked: Vec<i32> = all.keys().copied().filter(|process| *process != own && carries(*process, &mark)).collect();
        if marked.is_empty() {
            return;
        }
        let also = marked.iter().flat_map(|process| below(&all, *process)).filter(|process| *process != own);
        also.for_each(kill);
        marked.into_iter().for_each(kill);
        std::thread::sleep(Duration::from_millis(2));
    }
}

/// Starts a guard: `command` must end in [`guard`]. It ends all that this process started and left, however it ends.
pub fn with_guard(mut command: Command) {
    static GUARD: OnceLock<Option<ChildStdin>> = OnceLock::new();
    GUARD.get_or_init(|| {
        command.arg(token()).stdin(Stdio::piped()).stdout(Stdio::null()).stderr(Stdio::null()).process_group(0);
        // It waits for the end of what it is told, which is the end of this process.
        command.spawn().ok().and_then(|mut child| child.stdin.take())
    });
}

/// What a guard does: waits until whoever started it is gone, and ends what is left of it.
pub fn guard(token: &str) {
    let _ = std::io::stdin().lock().read_to_end(&mut Vec::new());
    if !token.is_empty() {
        end_marked(&format!("{token}."));
    }
}
