//! The pictures of `docs/screenshots/`, made from the sample on servers without a screen.

use std::io::Read;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use crate::capture::capture;
use crate::{Failure, run};

/// A program that is ended with its shot.
struct Ended(Child);

impl Drop for Ended {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// What the check and the keys are shown on: the sample, and one late night.
const MINE: &str = "[keys.desk]
\"Lead+Alt+F9\" = \"layout next\"
\"Alt+lead+f9\" = \"go logs\"
\"super+return\" = { do = \"open charts\", note = \"Charts\" }
";
const LATE: &str = "[keys.desk]
\"Alt+lead+t\" = \"open chart\"
\"super+return\" = { do = \"open logs\", note = \"Log of the gauges\" }

[frame]
widht = 3

[layout.wide]
share = \"most\"
";

struct Studio {
    folder: PathBuf,
    program: PathBuf,
    shots: PathBuf,
}

impl Studio {
    fn command(&self, program: &Path) -> Command {
        let mut command = Command::new(program);
        let bin = self.program.parent().unwrap_or(Path::new("/")).display().to_string();
        let path = format!("{bin}:{}", std::env::var("PATH").unwrap_or_default());
        command.current_dir(self.folder.join("saltmarsh")).env("PATH", path).env("HOME", &self.folder);
        command.env_remove("XDG_CONFIG_HOME").env_remove("XDG_STATE_HOME").env_remove("JOVRIK_RICE");
        command.env("COLORTERM", "truecolor").env("TERM", "xterm-256color");
        command.env("XDG_RUNTIME_DIR", self.folder.join("run")).env_remove("COLUMNS").env("PS1", "$ ").env("ENV", "");
        command
    }

    fn jovrik(&self, arguments: &[&str]) -> Result<(), Failure> {
        let status = self.command(&self.program).args(arguments).stdout(Stdio::null()).status()?;
        // A check that finds what it is shown on ends with 1.
        if matches!(status.code(), Some(0 | 1)) {
            Ok(())
        } else {
            Err(format!("jovrik {}: {status}", arguments.join(" ")).into())
        }
    }

    fn server(&self, size: &str) -> Result<(Ended, String), Failure> {
        let mut server = Command::new("Xvfb")
            .args(["-displayfd", "1", "-screen", "0", &format!("{size}x24"), "-noreset", "-nolisten", "tcp"])
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()?;
        let mut name = String::from(":");
        let mut out = server.stdout.take().ok_or("Xvfb says nothing")?;
        let mut byte = [0];
        while out.read(&mut byte)? == 1 && byte[0] != b'\n' {
            name.push(char::from(byte[0]));
        }
        Ok((Ended(server), name))
    }

    /// A terminal that shows commands with their output, and stays.
    fn terminal(&self, display: &str, geometry: &str, commands: &[&str]) -> Result<Ended, Failure> {
        let shown: Vec<String> =
            commands.iter().map(|line| format!("printf '\\033[36m$\\033[0m {line}\\n\\n'; {line}; echo")).collect();
        let script = format!("{}; printf '\\033[36m$\\033[0m '; sleep 1000", shown.join("; "));
        let xterm = self
            .command(Path::new("xterm"))
            .args(["-geometry", geometry, "-T", commands[0], "-e", "sh", "-c", &script])
            .env("DISPLAY", display)
            .spawn()?;
        Ok(Ended(xterm))
    }

    /// A picture of a terminal.
    fn words(&self, name: &str, commands: &[&str]) -> Result<(), Failure> {
        let (_server, display) = self.server("1280x800")?;
        let _terminal = self.terminal(&display, "138x43+0+0", commands)?;
        std::thread::sleep(Duration::from_millis(2500));
        capture(&display, &self.shots.join(name))
    }

    /// A picture of the screen of `tune`, after some keys.
    fn screen(&self, name: &str, keys: &[&str]) -> Result<(), Failure> {
        let (_server, display) = self.server("1280x800")?;
        let program = self.program.display().to_string();
        let xterm = self
            .command(Path::new("xterm"))
            .args(["-geometry", "138x41+0+0", "-e", "env", "COLORTERM=truecolor", "TERM=xterm-256color", &program, "tune"])
            .env("DISPLAY", &display)
            .spawn()?;
        let _xterm = Ended(xterm);
        let wait = |millis| std::thread::sleep(Duration::from_millis(millis));
        wait(2000);
        let press = |arguments: &[&str]| Command::new("xdotool").args(arguments).env("DISPLAY", &display).status();
        press(&["mousemove", "200", "200"])?;
        for key in keys {
            press(&["key", key])?;
            wait(150);
        }
        wait(1000);
        capture(&display, &self.shots.join(name))
    }

    /// A picture of the desktop on a server.
    fn desktop(&self, name: &str) -> Result<(), Failure> {
        let (_server, display) = self.server("1920x1080")?;
        for monitor in [["DP-1", "1080/286x1080/286+0+0", "screen"], ["HDMI-1", "840/222x1080/286+1080+0", "none"]] {
            let mut command = Command::new("xrandr");
            let status = command.arg("--setmonitor").args(monitor).env("DISPLAY", &display).status()?;
            if !status.success() {
                return Err(format!("xrandr: {status}").into());
            }
        }
        let mut live = Ended(self.command(&self.program).arg("live").env("DISPLAY", &display).stdout(Stdio::null()).spawn()?);
        let wait = |millis| std::thread::sleep(Duration::from_millis(millis));
        wait(1500);
        let mut others = Vec::new();
        let open = |program: &str, arguments: &[&str], others: &mut Vec<Ended>| -> Result<(), Failure> {
            let own = self.program.with_file_name(program);
            let path = if own.exists() { own } else { PathBuf::from(program) };
            let mut command = self.command(&path);
            others.push(Ended(command.args(arguments).env("DISPLAY", &display).stdout(Stdio::null()).spawn()?));
            wait(900);
            Ok(())
        };
        let tell = |action: &str| -> Result<(), Failure> {
            let status = self.command(&self.program).args(["tell", action]).env("DISPLAY", &display).status()?;
            if status.success() { Ok(()) } else { Err(format!("tell {action}: {status}").into()) }
        };
        // At the right one at a time, with the titles of all.
        tell("focus monitor right")?;
        open("tidechart", &["--as", "loghouse", "--title", "Log of the gauges"], &mut others)?;
        open("tidechart", &["--as", "gullmail", "--title", "Letters (3)"], &mut others)?;
        open("tidechart", &["--as", "marshmap", "--title", "Creeks, east"], &mut others)?;
        tell("focus monitor left")?;
        open("tidechart", &["--today"], &mut others)?;
        let colours = ["-bg", "#101c1f", "-fg", "#839699", "-hd", "#74d4b1", "-hl", "#74d4b1"];
        open("xclock", &[&["-analog", "-norender"][..], &colours].concat(), &mut others)?;
        others.push(self.terminal(&display, "58x24", &["jovrik ask monitors", "jovrik palette list"])?);
        wait(900);
        tell("focus tidechart")?;
        open("tidechart", &["--as", "sluicegate", "--title", "Close gate 2?", "--dialog"], &mut others)?;
        wait(1500);
        capture(&display, &self.shots.join(name))?;
        live.0.kill()?;
        Ok(())
    }
}

/// Takes all pictures, or that of the desktop alone.
pub fn take(live: bool) -> Result<(), Failure> {
    run("cargo", &["build", "--release", "--package", "jovrik", "--package", "jovrik-standin"])?;
    let here = std::env::current_dir()?;
    let folder = std::env::temp_dir().join(format!("jovrik-shots-{}", std::process::id()));
    let studio = Studio { program: here.join("target/release/jovrik"), shots: here.join("docs/screenshots"), folder };
    std::fs::create_dir_all(&studio.shots)?;
    std::fs::create_dir_all(studio.folder.join("saltmarsh"))?;
    let done = if live { desktop(&studio) } else { all(&studio) };
    let _ = std::fs::remove_dir_all(&studio.folder);
    done
}

fn desktop(studio: &Studio) -> Result<(), Failure> {
    studio.jovrik(&["new", "."])?;
    studio.jovrik(&["apply"])?;
    studio.jovrik(&["reset", "start.terminal"])?;
    studio.desktop("live.png")
}

fn all(studio: &Studio) -> Result<(), Failure> {
    let shot = |name: &str| studio.shots.join(name).display().to_string();
    studio.jovrik(&["new", "."])?;
    studio.jovrik(&["apply"])?;
    studio.jovrik(&["look", "--monitor", "DP-1", "--out", &shot("look-ebb.png")])?;
    studio.jovrik(&["look", "--monitor", "DP-1", "--typed", "ga", "--out", &shot("launcher.png")])?;
    studio.jovrik(&["look", "--monitor", "DP-1", "--workspace", "logs", "--out", &shot("ribbon.png")])?;
    studio.jovrik(&["look", "--size", "1280x800", "--workspace", "post", "--out", &shot("tabs.png")])?;
    studio.jovrik(&["look", "--monitor", "HDMI-1", "--workspace", "music", "--out", &shot("furniture.png")])?;
    studio.jovrik(&["look", "--size", "1280x800", "--beside", "noon", "--out", &shot("beside.png")])?;
    studio.jovrik(&["look", "--monitor", "DP-1", "--with", "palette.use=noon", "--out", "flat.png"])?;
    studio.words("palette.png", &["jovrik palette list", "jovrik palette from flat.png --name flat --dark"])?;
    studio.words("bar.png", &["jovrik greet", "jovrik bar try volume", "jovrik why style.bar.module.title.ink"])?;
    std::fs::remove_file(studio.folder.join("saltmarsh/flat.png"))?;
    studio.jovrik(&["reset", "start.terminal"])?;
    studio.desktop("live.png")?;
    studio.jovrik(&["undo"])?;
    studio.words(
        "apply.png",
        &["jovrik set bar.top.thick 36", "jovrik why bar.top.thick", "jovrik apply", "jovrik history", "jovrik undo"],
    )?;
    studio.jovrik(&["undo"])?;
    studio.words(
        "layers.png",
        &[
            "jovrik why --machine skiff",
            "jovrik why bar.top.thick --machine skiff",
            "jovrik toggle bar.top.end cpu",
            "jovrik settings between",
        ],
    )?;
    studio.jovrik(&["undo"])?;
    studio.screen(
        "tune.png",
        &["Right", "Right", "Right", "Down", "Down", "Return", "Tab", "Tab", "Tab", "Left", "Left", "Left", "Left"],
    )?;
    studio.words("rules.png", &["jovrik rules list", "jovrik rules try --app Slip", "jovrik rules try --kind dialgo"])?;
    studio.jovrik(&["publish", "--bundle", "saltmarsh.rice"])?;
    studio.words("adopt.png", &["jovrik adopt saltmarsh.rice"])?;
    std::fs::remove_file(studio.folder.join("saltmarsh/saltmarsh.rice"))?;
    studio.words("demo.png", &["jovrik demo --out /tmp/jovrik-demo"])?;
    let part = |name: &str| studio.folder.join("saltmarsh/parts").join(name);
    studio.words(
        "trace.png",
        &["jovrik keys trace Ctrl+space n", "jovrik keys trace --action close", "jovrik keys free --near Lead+g --most 4"],
    )?;
    studio.jovrik(&["keys", "sheet", "--layer", "Lead", "--out", &studio.shots.join("keys.png").display().to_string()])?;
    std::fs::write(part("mine.toml"), MINE)?;
    studio.words("settle.png", &["jovrik keys clash", "jovrik keys settle"])?;
    std::fs::write(part("mine.toml"), LATE)?;
    studio.words("check.png", &["jovrik check"])
}
