//! Monitors that come, go and lie over each other, on a server with several outputs.

use std::process::Command;

use crate::bars::named;
use crate::live::Screen;

/// A server without a screen whose outputs can be switched on and off.
const OUTPUTS: &str = "Section \"Device\"\nIdentifier \"d\"\nDriver \"dummy\"\nVideoRam 64000\nEndSection\n\
Section \"Monitor\"\nIdentifier \"m\"\nHorizSync 5.0 - 1000.0\nVertRefresh 5.0 - 200.0\nEndSection\n\
Section \"Screen\"\nIdentifier \"s\"\nDevice \"d\"\nMonitor \"m\"\nDefaultDepth 24\nSubSection \"Display\"\nDepth 24\n\
Modes \"1280x800\"\nVirtual 3840 2160\nEndSubSection\nEndSection\n\
Section \"ServerFlags\"\nOption \"AutoAddDevices\" \"false\"\nOption \"AutoEnableDevices\" \"false\"\nOption \"DontVTSwitch\" \"true\"\nEndSection\n";

const RICE: &str =
    "[space]\nedge = 0\nalone = 0\n[frame]\nwidth = 2\n[workspaces]\norder = [\"charts\", \"logs\"]\n[bar.top]\nthick = 30\n";

impl Screen {
    fn xrandr(&self, arguments: &[&str]) {
        let done = Command::new("xrandr").args(["-display", &self.name]).args(arguments).output().expect("it runs");
        assert!(done.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&done.stderr));
    }

    /// The workspaces of each monitor, what it shows marked; the focus is where it is.
    fn map(&self) -> String {
        let (monitors, workspaces) = (self.ask("monitors"), self.ask("workspaces"));
        let one = |monitor: &serde_json::Value| {
            let own = workspaces.as_array().expect("a list").iter().filter(|one| one["monitor"] == monitor["monitor"]);
            let names: Vec<String> = own
                .map(|one| {
                    let focus = if one["focused"] == true { ">" } else { "" };
                    let shown = if one["shown"] == true { "*" } else { "" };
                    format!("{focus}{shown}{}{}", one["workspace"].as_str().expect("a name"), one["windows"])
                })
                .collect();
            format!(
                "{} {}: {}",
                monitor["monitor"].as_str().expect("a name"),
                monitor["area"].as_str().expect("an area"),
                names.join(" ")
            )
        };
        monitors.as_array().expect("a list").iter().map(one).collect::<Vec<_>>().join(" | ")
    }
}

/// A server with several outputs, and the folder of its settings.
fn outputs() -> (tempfile::TempDir, Command) {
    let folder = tempfile::tempdir().expect("a folder");
    let (config, log) = (folder.path().join("xorg.conf"), folder.path().join("log"));
    std::fs::write(&config, OUTPUTS).expect("written");
    let mut server = Command::new("Xorg");
    server.args(["-displayfd", "1", "-noreset", "-nolisten", "tcp", "-novtswitch", "-config"]).arg(&config);
    server.arg("-logfile").arg(&log);
    (folder, server)
}

#[test]
fn monitors_come_go_and_mirror_and_nothing_is_lost() {
    let (_folder, server) = outputs();
    let mut screen = Screen::on(server, RICE);
    screen.start(&[]);
    let _one = screen.xterm();
    screen.tell("go logs");
    let _two = screen.xterm();
    assert_eq!(screen.map(), "DUMMY0 1280x800+0+0: charts1 >*logs1");
    screen.xrandr(&["--addmode", "DUMMY1", "1024x768"]);
    screen.xrandr(&["--output", "DUMMY1", "--mode", "1024x768", "--left-of", "DUMMY0"]);
    let both = "DUMMY1 1024x768+0+0: *DUMMY10 | DUMMY0 1280x800+1024+0: charts1 >*logs1";
    screen.wait("the second one at the left takes nothing from the first", |screen| screen.map() == both);
    assert_eq!(screen.areas(), ["1276x766+1026+32"]);
    let focused = |screen: &Screen| screen.ask("windows").as_array().expect("a list").iter().any(|one| one["focused"] == true);
    assert!(focused(&screen));
    screen.tell("move left");
    assert_eq!(screen.map(), "DUMMY1 1024x768+0+0: >*DUMMY11 | DUMMY0 1280x800+1024+0: charts1 *logs0");
    assert_eq!(screen.areas(), ["1020x734+2+32"]);
    screen.xrandr(&["--output", "DUMMY1", "--off", "--output", "DUMMY0", "--pos", "0x0"]);
    let one = "DUMMY0 1280x800+0+0: charts1 >*logs0 DUMMY11";
    screen.wait("what was there is in reach", |screen| screen.map() == one);
    screen.xrandr(&["--output", "DUMMY1", "--mode", "1024x768", "--right-of", "DUMMY0"]);
    let right = "DUMMY0 1280x800+0+0: charts1 >*logs0 | DUMMY1 1024x768+1280+0: *DUMMY11";
    screen.wait("and comes home", |screen| screen.map() == right);
    assert_eq!(screen.areas(), ["1020x734+1282+32"]);
    let bars = |screen: &Screen| screen.ask("monitors").as_array().map_or(0, Vec::len);
    assert_eq!(bars(&screen), 2);
    screen.xrandr(&["--output", "DUMMY1", "--same-as", "DUMMY0"]);
    screen.wait("the same picture twice is one monitor", |screen| screen.map() == one);
    assert!(named(&screen, "jovrik bar top").is_some());
    screen.tell("go DUMMY1");
    assert!(focused(&screen), "no window is hidden for good");
}

#[test]
fn virtual_monitors_are_seen_while_it_runs() {
    let mut screen = Screen::new(false);
    assert_eq!(screen.ask("monitors").as_array().map(Vec::len), Some(1));
    screen.xrandr(&["--setmonitor", "left", "500/130x800/210+0+0", "screen"]);
    screen.xrandr(&["--setmonitor", "right", "500/130x800/210+500+0", "none"]);
    screen.wait("there are two", |screen| {
        let told = screen.ask("monitors");
        let names: Vec<&str> = told.as_array().expect("a list").iter().filter_map(|one| one["monitor"].as_str()).collect();
        names == ["left", "right"]
    });
    screen.xrandr(&["--delmonitor", "right"]);
    screen.wait("and one", |screen| screen.ask("monitors").as_array().map(Vec::len) == Some(1));
}

#[test]
fn outputs_are_lit_as_the_rice_says_and_go_back_unless_that_is_kept() {
    let (_folder, server) = outputs();
    let first = "[monitor.main]\nmatch = \"DUMMY0\"\nmode = \"1280x800\"\nprimary = true\n";
    let mut screen = Screen::on(server, &format!("{RICE}{first}"));
    screen.xrandr(&["--addmode", "DUMMY0", "1024x768"]);
    screen.xrandr(&["--addmode", "DUMMY0", "800x600"]);
    screen.start(&[]);
    let _one = screen.xterm();
    assert_eq!(screen.map(), "DUMMY0 1280x800+0+0: >*charts1 logs0");
    // Another mode is tried, and a notice says so.
    screen.save(&format!("{RICE}{}", first.replace("1280x800", "1024x768")));
    screen.wait("it is tried", |screen| screen.map() == "DUMMY0 1024x768+0+0: >*charts1 logs0");
    screen.wait("a notice says so", |screen| named(screen, "jovrik notice Monitors").is_some());
    screen.wait("the window follows", |screen| screen.areas() == ["1020x734+2+32"]);
    screen.tell("monitors keep");
    screen.wait("it is kept", |screen| named(screen, "jovrik notice Monitors").is_none());
    let refused = screen.run(&["tell", "monitors keep"]);
    assert_eq!((refused.code, refused.err.as_str()), (1, "error  no monitors are tried\n"));
    // This server cannot turn an output: it is said, and all stays as it was.
    screen.save(&format!("{RICE}{}rotate = \"right\"\n", first.replace("1280x800", "800x600")));
    screen.wait("it is said", |screen| {
        let refusals = screen.ask("health")["last-refusal"].to_string();
        refusals.contains("the monitors stay as they are")
    });
    assert_eq!(screen.map(), "DUMMY0 1024x768+0+0: >*charts1 logs0");
    // What nobody keeps goes back.
    screen.save(&format!("{RICE}{}", first.replace("1280x800", "800x600")));
    screen.wait("it is tried", |screen| screen.map() == "DUMMY0 800x600+0+0: >*charts1 logs0");
    screen.wait("it went back by itself", |screen| screen.map() == "DUMMY0 1024x768+0+0: >*charts1 logs0");
    // What it cannot do is said, and nothing else changes.
    screen.save(&format!("{RICE}{}", first.replace("1280x800", "3000x2000")));
    screen.wait("it is read", |screen| screen.reloads("accepted") == 4);
    assert_eq!(screen.map(), "DUMMY0 1024x768+0+0: >*charts1 logs0");
}
