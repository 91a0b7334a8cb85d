//! The built program, driven on files in temporary folders with a cleared environment.

mod apply;
mod bad_input;
mod bars;
mod beside;
mod broken;
mod commands;
mod completing;
mod documents;
mod furniture;
mod greet;
mod helps;
mod hostile;
mod inputs;
mod keys;
mod launcher;
mod layers;
mod live;
mod looks;
mod monitors;
mod notices;
mod publish;
mod reloads;
mod standards;
mod trust;
mod tune;
mod windows;
mod wrong;

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

/// What a run of the program gave.
struct Run {
    out: String,
    err: String,
    code: i32,
}

impl Run {
    fn of(output: &Output, replace: &[(&str, &str)]) -> Run {
        let tidy = |bytes: &[u8]| {
            let text = String::from_utf8(bytes.to_vec()).expect("UTF-8");
            replace.iter().fold(text, |text, (from, to)| text.replace(from, to))
        };
        Run { out: tidy(&output.stdout), err: tidy(&output.stderr), code: output.status.code().expect("it ended by itself") }
    }

    /// The output of a run that must have been clean.
    #[track_caller]
    fn clean(self) -> String {
        assert_eq!((self.code, self.err.as_str()), (0, ""), "{}", self.out);
        self.out
    }

    /// The error output of a run that must have failed with a code and nothing on standard output.
    #[track_caller]
    fn failed(self, code: i32) -> String {
        assert_eq!((self.code, self.out.as_str()), (code, ""), "{}", self.err);
        self.err
    }
}

/// A home, a rice, and the program.
struct Desk {
    folder: tempfile::TempDir,
}

impl Desk {
    /// An empty home.
    fn empty() -> Desk {
        let folder = tempfile::Builder::new().prefix("jovrik-test-").tempdir().expect("a folder");
        std::fs::create_dir(folder.path().join("home")).expect("a home");
        std::fs::create_dir(folder.path().join("rice")).expect("a rice");
        Desk { folder }
    }

    /// A home, and the sample in `rice`.
    fn sample() -> Desk {
        let desk = Desk::empty();
        std::fs::remove_dir(desk.rice()).expect("it is empty");
        desk.command(desk.path(), &["new", "rice"]).output().expect("it runs");
        desk
    }

    /// A rice of one part, and a manifest.
    fn of(part: &str) -> Desk {
        let desk = Desk::empty();
        desk.write("rice.toml", "[rice]\nname = \"test\"\n");
        desk.write("parts/a.toml", part);
        desk
    }

    fn path(&self) -> &Path {
        self.folder.path()
    }

    pub fn home(&self) -> PathBuf {
        self.path().join("home")
    }

    /// The folders of the home.
    fn folders(&self) -> jovrik_home::UserDirs {
        let home = self.home();
        jovrik_home::UserDirs::of(&|name| (name == "HOME").then(|| home.clone().into())).expect("a home")
    }

    fn rice(&self) -> PathBuf {
        self.path().join("rice")
    }

    fn write(&self, name: &str, text: impl AsRef<[u8]>) {
        let path = self.rice().join(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("a folder");
        std::fs::write(path, text).expect("it is written");
    }

    fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.rice().join(name)).expect("it is there")
    }

    fn command(&self, here: &Path, arguments: &[&str]) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_jovrik"));
        command.args(arguments).current_dir(here).env_clear();
        command.env("HOME", self.home()).env("COLUMNS", "80").env("PATH", std::env::var_os("PATH").expect("a PATH"));
        command.env("XDG_RUNTIME_DIR", self.path().join("run")).env("USER", "mira").env("TZ", "UTC");
        command
    }

    /// Runs the program in the rice's folder.
    fn run(&self, arguments: &[&str]) -> Run {
        let output = self.command(&self.rice(), arguments).output().expect("it runs");
        let folder = self.path().display().to_string();
        Run::of(&output, &[(folder.as_str(), "TEMP")])
    }
}

/// Every file below a folder with its bytes, its permissions, and where links lead.
fn photograph(folder: &Path) -> Vec<(PathBuf, u32, Vec<u8>)> {
    use std::os::unix::fs::PermissionsExt;
    let mut seen = Vec::new();
    let mut open = vec![folder.to_owned()];
    while let Some(path) = open.pop() {
        for entry in std::fs::read_dir(&path).expect("a folder") {
            let path = entry.expect("an entry").path();
            let facts = path.symlink_metadata().expect("it is there");
            let mode = facts.permissions().mode();
            if facts.is_dir() {
                seen.push((path.clone(), mode, Vec::new()));
                open.push(path);
            } else if facts.is_symlink() {
                use std::os::unix::ffi::OsStrExt;
                let to = std::fs::read_link(&path).expect("a link");
                seen.push((path, mode, to.as_os_str().as_bytes().to_vec()));
            } else {
                let bytes = std::fs::read(&path).expect("it is read");
                seen.push((path, mode, bytes));
            }
        }
    }
    seen.sort();
    seen
}
