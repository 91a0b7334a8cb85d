//! The system packages that tests and pictures need: a program each, and the Debian package that has it.

use std::path::Path;
use std::process::Command;

use crate::{Failure, run};

/// What must be there: a file or a program, and its package.
const NEEDED: &[(&str, &str)] = &[
    ("Xvfb", "xvfb"),
    ("Xorg", "xserver-xorg-core"),
    ("/usr/lib/xorg/modules/drivers/dummy_drv.so", "xserver-xorg-video-dummy"),
    ("Xephyr", "xserver-xephyr"),
    ("xrandr", "x11-xserver-utils"),
    ("xterm", "xterm"),
    ("xdotool", "xdotool"),
    ("xprop", "x11-utils"),
    ("xclock", "x11-apps"),
    ("dbus-daemon", "dbus"),
    ("notify-send", "libnotify-bin"),
    ("yad", "yad"),
    ("/usr/lib/python3/dist-packages/gi", "python3-gi"),
    ("/usr/lib/*/girepository-1.0/AyatanaAppIndicator3-0.1.typelib", "gir1.2-ayatanaappindicator3-0.1"),
    ("setsid", "util-linux"),
    ("setpriv", "util-linux"),
    ("faketime", "faketime"),
    ("git", "git"),
    ("zsh", "zsh"),
    ("fish", "fish"),
    ("dash", "dash"),
    ("chromium", "chromium"),
    ("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf", "fonts-dejavu-core"),
    ("/usr/share/X11/xkb/rules/evdev", "xkb-data"),
];

fn there(what: &str) -> bool {
    if let Some((before, after)) = what.split_once("/*/") {
        // One folder of any name, such as that of the processor's kind.
        let folders = std::fs::read_dir(before).into_iter().flatten().flatten();
        return folders.into_iter().any(|folder| folder.path().join(after).exists());
    }
    if what.starts_with('/') {
        return Path::new(what).exists();
    }
    let path = std::env::var_os("PATH").unwrap_or_default();
    std::env::split_paths(&path).any(|folder| folder.join(what).is_file())
}

/// Installs what is missing, or names it.
pub fn install() -> Result<(), Failure> {
    let missing = || -> Vec<&str> { NEEDED.iter().filter(|(what, _)| !there(what)).map(|(_, package)| *package).collect() };
    let packages = missing();
    if packages.is_empty() {
        return Ok(());
    }
    let root = Command::new("id").arg("-u").output().is_ok_and(|output| output.stdout.starts_with(b"0\n"));
    let by_hand = format!("these system packages are missing: {0}\n  apt-get install {0}", packages.join(" "));
    if !root || !there("apt-get") {
        return Err(by_hand.into());
    }
    eprintln!("installing {}", packages.join(", "));
    run("apt-get", &["update", "-qq"])?;
    let mut arguments = vec!["install", "-y", "-qq", "--no-install-recommends"];
    arguments.extend(&packages);
    run("apt-get", &arguments)?;
    let still = missing();
    if still.is_empty() { Ok(()) } else { Err(format!("still missing after installing: {}", still.join(", ")).into()) }
}
