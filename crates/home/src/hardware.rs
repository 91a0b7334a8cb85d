//! What the kernel and the file system tell of this computer.

use std::collections::BTreeSet;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use jovrik_core::desk::{MonitorFacts, edid};
use jovrik_values::PixelRect;

fn read(path: &Path) -> Option<String> {
    std::fs::read_to_string(path).ok().map(|text| text.trim().to_owned())
}

/// The names in a folder, sorted; none when it cannot be read.
fn names(folder: &Path) -> Vec<String> {
    let entries = std::fs::read_dir(folder).into_iter().flatten();
    let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
    names.sort_unstable();
    names
}

/// The hour of the day here.
pub fn hour() -> Option<u8> {
    u8::try_from(jiff::Zoned::now().hour()).ok()
}

/// How many processor cores there are: `processor` lines of `/proc/cpuinfo`.
pub fn cores(proc: &Path) -> Option<i64> {
    let text = read(&proc.join("cpuinfo"))?;
    let number = text.lines().filter(|line| line.starts_with("processor")).count();
    if number > 0 { Some(number as i64) } else { std::thread::available_parallelism().ok().map(|number| number.get() as i64) }
}

/// The memory in MiB: `MemTotal` of `/proc/meminfo`.
pub fn memory(proc: &Path) -> Option<i64> {
    let text = read(&proc.join("meminfo"))?;
    let kib: i64 = text.lines().find(|line| line.starts_with("MemTotal:"))?.split_whitespace().nth(1)?.parse().ok()?;
    Some(kib / 1024)
}

/// How many batteries there are that feed the whole computer: `/sys/class/power_supply`.
pub fn batteries(sys: &Path) -> i64 {
    let folder = sys.join("class/power_supply");
    let feeds = |name: &String| {
        let own = folder.join(name);
        // A battery of a mouse or a headset has the scope Device.
        read(&own.join("type")).as_deref() == Some("Battery") && read(&own.join("scope")).as_deref() != Some("Device")
    };
    names(&folder).iter().filter(|name| feeds(name)).count() as i64
}

/// The network interfaces, without the loop-back one: `/sys/class/net`.
pub fn networks(sys: &Path) -> Vec<String> {
    names(&sys.join("class/net")).into_iter().filter(|name| name != "lo").collect()
}

/// The monitors that the kernel says are connected, side by side at their preferred sizes: `/sys/class/drm`.
pub fn monitors(sys: &Path) -> Option<Vec<MonitorFacts>> {
    let folder = sys.join("class/drm");
    let mut x = 0;
    let mut monitors = Vec::new();
    for name in names(&folder) {
        let own = folder.join(&name);
        let Some((_, output)) = name.split_once('-').filter(|_| read(&own.join("status")).as_deref() == Some("connected")) else {
            continue;
        };
        let modes = read(&own.join("modes")).unwrap_or_default();
        let size = modes.lines().next().and_then(|mode| {
            let (w, h) = mode.split_once('x')?;
            Some((w.parse().ok()?, h.trim_end_matches(|c: char| !c.is_ascii_digit()).parse().ok()?))
        });
        let Some((w, h)) = size else { continue };
        let maker = std::fs::read(own.join("edid")).ok().and_then(|bytes| edid(&bytes)).unwrap_or_default();
        monitors.push(MonitorFacts { maker, ..MonitorFacts::new(output.to_owned(), PixelRect::new(x, 0, w, h)) });
        x += w;
    }
    (!monitors.is_empty()).then_some(monitors)
}

/// The keyboard layouts that the system's keyboard file names (keyboard(5)).
pub fn keyboard(etc: &Path) -> Vec<String> {
    let Some(text) = read(&etc.join("default/keyboard")) else { return Vec::new() };
    let line = text.lines().find_map(|line| line.trim().strip_prefix("XKBLAYOUT="));
    let layouts = line.unwrap_or_default().trim_matches('"').split(',');
    layouts.map(str::trim).filter(|name| !name.is_empty()).map(str::to_owned).collect()
}

/// Whether a path is a program that can be run.
pub fn runs(path: &Path) -> bool {
    std::fs::metadata(path).is_ok_and(|facts| facts.is_file() && facts.permissions().mode() & 0o111 != 0)
}

/// The names of all programs on a search path.
pub fn programs(path: &[PathBuf]) -> BTreeSet<String> {
    let all = path.iter().flat_map(|folder| names(folder).into_iter().map(move |name| (folder, name)));
    all.filter(|(folder, name)| runs(&folder.join(name))).map(|(_, name)| name).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn put(folder: &Path, name: &str, text: &str) {
        let path = folder.join(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("a folder");
        std::fs::write(path, text).expect("written");
    }

    #[test]
    fn facts_are_read_from_the_kernel_s_files() {
        let folder = tempfile::tempdir().expect("a folder");
        let root = folder.path();
        put(root, "proc/cpuinfo", "processor\t: 0\nmodel name: x\n\nprocessor\t: 1\n");
        put(root, "proc/meminfo", "MemTotal:       8192000 kB\nMemFree: 1 kB\n");
        put(root, "sys/class/power_supply/BAT0/type", "Battery\n");
        put(root, "sys/class/power_supply/AC/type", "Mains\n");
        put(root, "sys/class/power_supply/mouse/type", "Battery\n");
        put(root, "sys/class/power_supply/mouse/scope", "Device\n");
        put(root, "sys/class/net/lo/mtu", "1");
        put(root, "sys/class/net/wlan0/mtu", "1");
        put(root, "sys/class/drm/card0-eDP-1/status", "connected\n");
        put(root, "sys/class/drm/card0-eDP-1/modes", "1366x768\n1024x768\n");
        put(root, "sys/class/drm/card0-DP-2/status", "disconnected\n");
        put(root, "sys/class/drm/card0-HDMI-A-1/status", "connected\n");
        put(root, "sys/class/drm/card0-HDMI-A-1/modes", "1920x1080i\n");
        put(root, "etc/default/keyboard", "XKBMODEL=\"pc105\"\nXKBLAYOUT=\"fr, us\"\n");
        assert_eq!(cores(&root.join("proc")), Some(2));
        assert_eq!(memory(&root.join("proc")), Some(8000));
        assert_eq!(batteries(&root.join("sys")), 1, "a mouse's battery does not feed the computer");
        assert_eq!(networks(&root.join("sys")), ["wlan0"]);
        let monitors = monitors(&root.join("sys")).expect("two");
        let told: Vec<_> = monitors.iter().map(|monitor| (monitor.name.as_str(), monitor.area.x, monitor.area.w)).collect();
        assert_eq!(told, [("HDMI-A-1", 0, 1920), ("eDP-1", 1920, 1366)]);
        assert_eq!(keyboard(&root.join("etc")), ["fr", "us"]);
    }

    #[test]
    fn what_the_kernel_does_not_tell_is_not_guessed() {
        let folder = tempfile::tempdir().expect("a folder");
        assert_eq!((cores(folder.path()), memory(folder.path()), monitors(folder.path())), (None, None, None));
        assert_eq!((batteries(folder.path()), networks(folder.path())), (0, Vec::new()));
    }
}
