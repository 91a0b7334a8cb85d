//! Blocks of lines in files of others: a beginning and an end mark them, and nothing beside them is touched.

use std::path::PathBuf;

use jovrik_core::rice::{Rice, ShellKind};

use crate::UserDirs;

/// What a block of ours begins and ends with.
const BEGIN: &str = "# jovrik greeting: begin (jovrik apply writes and takes out what is between)";
const END: &str = "# jovrik greeting: end";

/// The file that a shell reads when somebody begins to type in it, by its path from the home or configuration folder.
pub fn start_file(home: &UserDirs, shell: ShellKind) -> PathBuf {
    match shell {
        ShellKind::Sh => home.home.join(".profile"),
        ShellKind::Bash => home.home.join(".bashrc"),
        ShellKind::Zsh => home.home.join(".zshrc"),
        ShellKind::Fish => home.config.join("fish/config.fish"),
    }
}

/// What stands between the marks: nothing where nobody types, or where the program is gone.
fn inside(shell: ShellKind) -> &'static str {
    match shell {
        // `.profile` is read by other shells as well, which greet by themselves.
        ShellKind::Sh => {
            "case $-:${BASH_VERSION-}:${ZSH_VERSION-} in *i*::) command -v jovrik >/dev/null 2>&1 && jovrik greet ;; esac"
        }
        ShellKind::Bash | ShellKind::Zsh => "case $- in *i*) command -v jovrik >/dev/null 2>&1 && jovrik greet ;; esac",
        ShellKind::Fish => "if status is-interactive; and type -q jovrik\n    jovrik greet\nend",
    }
}

/// Whether a file has a block of ours.
pub fn has_block(text: &str) -> bool {
    text.lines().any(|line| line == BEGIN)
}

/// A text without our blocks: what stood before and after them is as it was. One whose end is gone is left where it is.
pub fn without(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, block)) = split_line(rest, BEGIN) {
        let Some((_, after)) = split_line(block, END) else { break };
        // The empty line before it came with it.
        out.push_str(before.strip_suffix("\n\n").map_or(before, |_| &before[..before.len() - 1]));
        rest = after;
    }
    out.push_str(rest);
    out
}

/// A text before a line, and what follows that.
fn split_line<'t>(text: &'t str, line: &str) -> Option<(&'t str, &'t str)> {
    let mut at = 0;
    for own in text.split_inclusive('\n') {
        if own.trim_end_matches('\n') == line {
            return Some((&text[..at], &text[at + own.len()..]));
        }
        at += own.len();
    }
    None
}

/// A text with our block at its end, in place of any that it had.
pub fn with(text: &str, shell: ShellKind) -> String {
    let own = without(text);
    let lead = match own.as_str() {
        "" => "",
        own if own.ends_with('\n') => "\n",
        _ => "\n\n",
    };
    format!("{own}{lead}{BEGIN}\n{}\n{END}\n", inside(shell))
}

/// The start files of shells, each with whether a rice wants a block in it.
pub fn start_files(home: &UserDirs, rice: &Rice) -> Vec<(ShellKind, PathBuf, bool)> {
    let wanted = |shell: ShellKind| rice.greeting.shells.iter().any(|greets| greets.0 == shell);
    ShellKind::ALL.iter().map(|shell| (*shell, start_file(home, *shell), wanted(*shell))).collect()
}
