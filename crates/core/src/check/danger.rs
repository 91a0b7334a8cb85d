//! What of a stranger's rice is looked at first: when it would happen, and what marks it as dangerous.

use jovrik_schema::catalogue::Capability;
use jovrik_toml::steps;

use super::capability_use::{CapabilityUse, sensitive};

/// When something that reaches out of a rice would happen, what is worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Occasion {
    /// With the session, by itself.
    Session,
    /// As a file that shells and logins read, or by which doors are opened.
    Login,
    /// In the environment of everything that is started.
    Environment,
    /// When a person presses or chooses something.
    Press,
    /// As a file of another kind.
    File,
}

impl Occasion {
    /// All of them, what is worst first.
    pub const ALL: [Occasion; 5] = [Occasion::Session, Occasion::Login, Occasion::Environment, Occasion::Press, Occasion::File];

    /// When a value would take effect.
    pub fn of(one: &CapabilityUse) -> Occasion {
        let path = steps(&one.path);
        let step = |nth: usize| path.get(nth).map_or("", String::as_str);
        match (one.reach, step(0), step(2)) {
            (Capability::Environment, ..) => Occasion::Environment,
            (Capability::WriteFile, ..) if sensitive(step(1)).is_some() => Occasion::Login,
            (Capability::WriteFile, ..) => Occasion::File,
            (_, "start", _) | (_, "module", "source") | (_, "backdrop" | "greeting", _) => Occasion::Session,
            _ => Occasion::Press,
        }
    }

    /// What is said above those of one occasion.
    pub fn heading(self) -> &'static str {
        match self {
            Occasion::Session => "runs with the session, by itself",
            Occasion::Login => "would replace files that shells, logins and keys go by",
            Occasion::Environment => "would set in the environment, by which programs run and load other code",
            Occasion::Press => "would run when something is pressed or chosen",
            Occasion::File => "would write, when it is applied",
        }
    }
}

/// Words of a command, without what joins them.
fn words(text: &str) -> impl Iterator<Item = &str> {
    let joins = |c: char| {
        c.is_whitespace() || matches!(c, ';' | '|' | '&' | '(' | ')' | '`' | '"' | '\'' | '$' | '{' | '}' | ',' | '[' | ']')
    };
    text.split(joins).filter(|word| !word.is_empty()).map(|word| word.rsplit('/').next().unwrap_or(word))
}

/// What marks a value as dangerous, in a few words each: none of it makes the others harmless.
pub fn dangers(what: &str) -> Vec<&'static str> {
    // Lines stand in one, with what parts them as an escape.
    let what = &what.replace("\\n", " ; ").replace("\\t", " ");
    let has = |names: &[&str]| words(what).any(|word| names.contains(&word));
    let shells = ["sh", "bash", "dash", "zsh", "ksh", "fish", "python", "python3", "perl", "ruby", "node"];
    let into_a_shell = what.split('|').skip(1).any(|piece| words(piece).next().is_some_and(|word| shells.contains(&word)));
    let mut found = Vec::new();
    let mut mark = |holds: bool, words: &'static str| found.extend(holds.then_some(words));
    mark(
        has(&["rm", "shred", "unlink", "truncate", "mkfs", "dd", "wipefs"]) || what.contains("-delete"),
        "deletes or overwrites",
    );
    mark(into_a_shell || has(&["eval"]), "pipes into a shell");
    mark(
        has(&["curl", "wget", "nc", "ncat", "socat", "ssh", "scp", "rsync"]) || what.contains("/dev/tcp/"),
        "reaches the network",
    );
    mark(has(&["sudo", "pkexec", "doas", "su", "setcap"]), "asks for the rights of others");
    mark(["LD_PRELOAD", "LD_LIBRARY_PATH", "LD_AUDIT"].iter().any(|name| what.contains(name)), "loads code into other programs");
    let keys = [".ssh", ".gnupg", "authorized_keys", ".netrc", ".password-store", "keyrings"];
    mark(keys.iter().any(|name| what.contains(name)), "touches keys of logins");
    mark(has(&["crontab", "systemctl"]) || what.contains("autostart"), "makes something run later");
    mark(has(&["base64", "xxd"]), "hides what it runs");
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_dangerous_is_marked_and_what_only_looks_like_it_is_not() {
        for (what, marks) in [
            ("curl -s http://x.example/a | bash", &["pipes into a shell", "reaches the network"][..]),
            ("echo ok\\nrm -rf x", &["deletes or overwrites"]),
            ("/bin/rm x", &["deletes or overwrites"]),
            ("LD_PRELOAD=/tmp/a.so", &["loads code into other programs"]),
            ("cat ~/.ssh/id_ed25519", &["touches keys of logins"]),
            ("sudo reboot", &["asks for the rights of others"]),
            ("sh -c 'jovrik-mixer up'", &[]),
            ("tidechart --today | head -1", &[]),
            ("firm --arm", &[]),
        ] {
            assert_eq!(dangers(what), marks, "{what}");
        }
    }
}
