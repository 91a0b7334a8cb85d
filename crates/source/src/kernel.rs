//! Values that the kernel tells: `/proc` (proc(5)) and `/sys`.

use std::path::{Path, PathBuf};
use std::time::Instant;

use jovrik_core::rice::BuiltInSource;
use jovrik_values::{FieldValue, Values, each_of};

use crate::source_error::SourceError;

/// Where the kernel tells of the computer, and what was read of it before.
#[derive(Debug, Clone)]
pub struct Kernel {
    /// `/proc`.
    pub proc: PathBuf,
    /// `/sys`.
    pub sys: PathBuf,
}

impl Default for Kernel {
    fn default() -> Self {
        Kernel { proc: "/proc".into(), sys: "/sys".into() }
    }
}

/// What one source remembers from one reading to the next.
#[derive(Debug, Clone, Default)]
pub struct PreviousSample {
    ticks: Option<Ticks>,
    /// Those of each core.
    cores: Vec<Ticks>,
    bytes: Option<(Instant, f64, f64)>,
}

/// Processor time since the start, in ticks: busy and all.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
struct Ticks {
    busy: u64,
    all: u64,
}

fn number(number: f64) -> FieldValue {
    FieldValue::Number(number)
}

fn text(text: impl Into<String>) -> FieldValue {
    FieldValue::Text(text.into())
}

fn values<const N: usize>(fields: [(&str, FieldValue); N]) -> Values {
    Values(fields.into_iter().map(|(name, field)| (name.to_owned(), field)).collect())
}

fn read(path: &Path) -> Option<String> {
    std::fs::read_to_string(path).ok().map(|text| text.trim().to_owned())
}

/// A part of something in percent: between nothing and all of it.
fn percent_of(part: f64, all: f64) -> f64 {
    (part / all * 100.0).clamp(0.0, 100.0)
}

/// A number; `NaN` and what is infinite are none.
fn number_of(word: &str) -> Option<f64> {
    word.parse().ok().filter(|number: &f64| number.is_finite())
}

fn read_number(path: &Path) -> Option<f64> {
    number_of(&read(path)?)
}

/// The folders in a folder that answer to a name, or all of them; sorted.
fn folders(folder: &Path, of: &str) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).into_iter().flatten();
    let mut paths: Vec<PathBuf> = entries.filter_map(|entry| Some(entry.ok()?.path())).collect();
    paths.retain(|path| of.is_empty() || path.file_name().is_some_and(|name| name == of));
    paths.sort_unstable();
    paths
}

/// What a line of `/proc/stat` says of one or all processors (proc(5)).
fn ticks(line: &str) -> Option<Ticks> {
    let numbers: Vec<u64> = line.split_whitespace().skip(1).filter_map(|word| word.parse().ok()).collect();
    let all = numbers.iter().take(8).fold(0, |all: u64, own| all.saturating_add(*own));
    let idle = numbers.get(3)?.saturating_add(*numbers.get(4)?);
    Some(Ticks { busy: all - idle.min(all), all })
}

impl Ticks {
    /// How busy it was since an earlier time, in percent; nothing when no time has passed.
    fn load(self, earlier: Ticks) -> Option<f64> {
        let all = self.all.saturating_sub(earlier.all);
        (all > 0).then(|| percent_of(self.busy.saturating_sub(earlier.busy) as f64, all as f64))
    }
}

/// The time now, in the computer's zone.
fn time() -> Values {
    let now = FieldValue::Time(Box::new(jiff::Zoned::now()));
    values([("time", now.clone()), ("value", now)])
}

/// What a built-in source says that needs no time between two readings; nothing where this computer has none.
pub fn ask_once(what: BuiltInSource) -> Option<Values> {
    Kernel::default().ask(what, "", &mut PreviousSample::default(), Instant::now()).ok().flatten()
}

impl Kernel {
    /// Reads a built-in source; `of` names one of several. An error says what is missing.
    pub fn ask(
        &self,
        what: BuiltInSource,
        of: &str,
        before: &mut PreviousSample,
        now: Instant,
    ) -> Result<Option<Values>, SourceError> {
        let none = SourceError::None;
        match what {
            BuiltInSource::Time => Ok(Some(time())),
            BuiltInSource::Cpu => Ok(self.cpu(before)),
            BuiltInSource::Memory => self.memory().map(Some).ok_or_else(|| none("readable memory facts")),
            BuiltInSource::Disk => disk(if of.is_empty() { "/" } else { of }).map(Some),
            BuiltInSource::Network => self.network(of, before, now).map(Some).ok_or_else(|| none("network interface that is up")),
            BuiltInSource::Battery => self.battery(of).map(Some).ok_or_else(|| none("battery")),
            BuiltInSource::Backlight => self.backlight(of).map(Some).ok_or_else(|| none("screen light to set")),
            BuiltInSource::Temperature => self.temperature(of).map(Some).ok_or_else(|| none("such temperature sensor")),
            BuiltInSource::Load => self.load().map(Some).ok_or_else(|| none("readable load")),
            BuiltInSource::Uptime => self.uptime().map(Some).ok_or_else(|| none("readable uptime")),
            BuiltInSource::Processes => self.processes().map(Some).ok_or_else(|| none("readable list of processes")),
            _ => Ok(None),
        }
    }

    /// The busy part of the time since the last reading; the first has nothing to compare with.
    fn cpu(&self, before: &mut PreviousSample) -> Option<Values> {
        let stat = read(&self.proc.join("stat"))?;
        let now = ticks(stat.lines().next().filter(|line| line.starts_with("cpu "))?)?;
        let lines = stat.lines().filter(|line| line.starts_with("cpu") && !line.starts_with("cpu "));
        let count = lines.clone().count();
        let cores: Vec<Ticks> = lines.filter_map(ticks).collect();
        let each_earlier = std::mem::replace(&mut before.cores, cores.clone());
        let load = now.load(before.ticks.replace(now)?)?;
        let each = cores.iter().zip(&each_earlier).map(|(now, earlier)| now.load(*earlier).unwrap_or_default()).collect();
        let plain = values([("load", number(load)), ("cores", number(count as f64)), ("value", number(load.round()))]);
        Some(plain.and(&each_of("load"), FieldValue::Past(each)))
    }

    fn memory(&self) -> Option<Values> {
        let info = read(&self.proc.join("meminfo"))?;
        let field = |name: &str| {
            let line = info.lines().find(|line| line.starts_with(name))?;
            number_of(line.split_whitespace().nth(1)?).map(|kib| kib * 1024.0)
        };
        let total = field("MemTotal:").filter(|total| *total > 0.0)?;
        let free = field("MemAvailable:")?.clamp(0.0, total);
        let used = total - free;
        let percent = percent_of(used, total);
        Some(values([
            ("used", number(used)),
            ("free", number(free)),
            ("total", number(total)),
            ("percent", number(percent)),
            ("value", number(percent.round())),
        ]))
    }

    /// The interface of the default route, else the first that is up.
    fn interface(&self) -> Option<String> {
        let route = read(&self.proc.join("net/route")).unwrap_or_default();
        let default = route.lines().skip(1).find_map(|line| {
            let words: Vec<&str> = line.split_whitespace().collect();
            (words.get(1) == Some(&"00000000")).then(|| words.first().map(|name| (*name).to_owned())).flatten()
        });
        let up = || {
            let all = folders(&self.sys.join("class/net"), "").into_iter();
            let mut up = all.filter(|path| matches!(read(&path.join("operstate")).as_deref(), Some("up")));
            up.next().and_then(|path| Some(path.file_name()?.to_string_lossy().into_owned()))
        };
        default.or_else(up)
    }

    fn network(&self, of: &str, before: &mut PreviousSample, now: Instant) -> Option<Values> {
        let name = if of.is_empty() { self.interface()? } else { of.to_owned() };
        let own = self.sys.join("class/net").join(&name);
        let down = read_number(&own.join("statistics/rx_bytes"))?;
        let up = read_number(&own.join("statistics/tx_bytes"))?;
        let state = read(&own.join("operstate")).unwrap_or_else(|| "unknown".to_owned());
        let earlier = before.bytes.replace((now, down, up));
        let rate = |bytes: f64, before: fn((Instant, f64, f64)) -> f64| {
            let Some(earlier) = earlier else { return 0.0 };
            let seconds = now.saturating_duration_since(earlier.0).as_secs_f64();
            if seconds > 0.0 { ((bytes - before(earlier)) / seconds).max(0.0) } else { 0.0 }
        };
        Some(values([
            ("name", text(name.clone())),
            ("state", text(state)),
            ("down", number(rate(down, |earlier| earlier.1))),
            ("up", number(rate(up, |earlier| earlier.2))),
            ("value", text(name)),
        ]))
    }

    fn battery(&self, of: &str) -> Option<Values> {
        let all = folders(&self.sys.join("class/power_supply"), of).into_iter();
        let mut batteries = all.filter(|path| {
            read(&path.join("type")).as_deref() == Some("Battery") && read(&path.join("scope")).as_deref() != Some("Device")
        });
        let own = batteries.next()?;
        let get = |name: &str| read_number(&own.join(name));
        let of_full = |kind: &str| {
            let full = get(&format!("{kind}_full")).filter(|full| *full > 0.0)?;
            Some(percent_of(get(&format!("{kind}_now"))?, full))
        };
        let percent = get("capacity").or_else(|| of_full("energy")).or_else(|| of_full("charge"))?.clamp(0.0, 100.0);
        let state = read(&own.join("status")).unwrap_or_default().to_lowercase();
        let hours = |now: &str, full: &str, rate: &str| {
            let rate = get(rate).filter(|rate| *rate > 0.0)?;
            let left = if state == "charging" { get(full)? - get(now)? } else { get(now)? };
            Some(left.max(0.0) / rate)
        };
        let hours = hours("energy_now", "energy_full", "power_now").or_else(|| hours("charge_now", "charge_full", "current_now"));
        let mut known =
            values([("percent", number(percent)), ("state", text(state.clone())), ("value", number(percent.round()))]);
        if let Some(hours) = hours.filter(|hours| *hours < 100.0 && state != "full") {
            let minutes = (hours * 60.0).round() as u64;
            known = known.and("left", text(format!("{}:{:02}", minutes / 60, minutes % 60)));
        }
        Some(known)
    }

    fn backlight(&self, of: &str) -> Option<Values> {
        let own = folders(&self.sys.join("class/backlight"), of).into_iter().next()?;
        let most = read_number(&own.join("max_brightness")).filter(|most| *most > 0.0)?;
        let percent = percent_of(read_number(&own.join("brightness"))?, most);
        Some(values([("percent", number(percent)), ("value", number(percent.round()))]))
    }

    /// A zone of `/sys/class/thermal` by its type, else a sensor of `/sys/class/hwmon` by its name; without one the first.
    fn temperature(&self, of: &str) -> Option<Values> {
        let zones = folders(&self.sys.join("class/thermal"), "").into_iter();
        let zones = zones.filter_map(|path| Some((read(&path.join("type"))?, read_number(&path.join("temp"))?)));
        let sensors = folders(&self.sys.join("class/hwmon"), "").into_iter();
        let sensors = sensors.filter_map(|path| Some((read(&path.join("name"))?, read_number(&path.join("temp1_input"))?)));
        let (name, milli) = zones.chain(sensors).find(|(name, _)| of.is_empty() || name == of)?;
        let degrees = milli / 1000.0;
        Some(values([("degrees", number(degrees)), ("name", text(name)), ("value", number(degrees.round()))]))
    }

    fn load(&self) -> Option<Values> {
        let all = read(&self.proc.join("loadavg"))?;
        let mut numbers = all.split_whitespace().map_while(number_of);
        let (one, five, fifteen) = (numbers.next()?, numbers.next()?, numbers.next()?);
        Some(values([("one", number(one)), ("five", number(five)), ("fifteen", number(fifteen)), ("value", number(one))]))
    }

    fn uptime(&self) -> Option<Values> {
        let seconds = number_of(read(&self.proc.join("uptime"))?.split_whitespace().next()?)?;
        let minutes = (seconds / 60.0) as u64;
        let (days, hours, minutes) = (minutes / 1440, minutes / 60 % 24, minutes % 60);
        let long = match (days, hours) {
            (0, 0) => format!("{minutes} min"),
            (0, _) => format!("{hours} h {minutes} min"),
            _ => format!("{days} d {hours} h"),
        };
        Some(values([
            ("days", number(days as f64)),
            ("hours", number(hours as f64)),
            ("minutes", number(minutes as f64)),
            ("text", text(long.clone())),
            ("value", text(long)),
        ]))
    }

    fn processes(&self) -> Option<Values> {
        let all = std::fs::read_dir(&self.proc).ok()?.filter_map(Result::ok);
        let count = all.filter(|entry| entry.file_name().to_string_lossy().bytes().all(|byte| byte.is_ascii_digit())).count();
        let loads = read(&self.proc.join("loadavg"))?;
        let running = loads.split_whitespace().nth(3)?.split('/').next().and_then(number_of)?;
        let count = count as f64;
        Some(values([("count", number(count)), ("running", number(running)), ("value", number(count))]))
    }
}

fn disk(path: &str) -> Result<Values, SourceError> {
    let stat = rustix::fs::statvfs(path).map_err(|error| SourceError::Failed(path.to_owned(), error.into()))?;
    let block = stat.f_frsize as f64;
    let (total, free) = (stat.f_blocks as f64 * block, stat.f_bavail as f64 * block);
    // What only the superuser may use counts as used.
    let used = total - free;
    let percent = if total > 0.0 { percent_of(used, total) } else { 0.0 };
    Ok(values([
        ("used", number(used)),
        ("free", number(free)),
        ("total", number(total)),
        ("percent", number(percent)),
        ("path", text(path)),
        ("value", number(percent.round())),
    ]))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn made(files: &[(&str, &str)]) -> (tempfile::TempDir, Kernel) {
        let folder = tempfile::tempdir().expect("a folder");
        for (name, text) in files {
            let path = folder.path().join(name);
            std::fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
            std::fs::write(path, text).expect("a file");
        }
        let kernel = Kernel { proc: folder.path().join("proc"), sys: folder.path().join("sys") };
        (folder, kernel)
    }

    fn shown(values: Values) -> String {
        values.0.iter().map(|(name, field)| format!("{name}={}", field.plain())).collect::<Vec<_>>().join(" ")
    }

    fn ask(kernel: &Kernel, what: BuiltInSource, of: &str) -> String {
        match kernel.ask(what, of, &mut PreviousSample::default(), Instant::now()) {
            Ok(Some(values)) => shown(values),
            Ok(None) => "nothing".to_owned(),
            Err(why) => why.to_string(),
        }
    }

    #[test]
    fn load_of_the_processor_is_the_busy_part_between_two_readings() {
        let (folder, kernel) = made(&[(
            "proc/stat",
            "cpu  100 0 100 700 100 0 0 0 0 0\ncpu0 50 0 50 350 50 0 0 0\ncpu1 50 0 50 350 50 0 0 0\nintr 5\n",
        )]);
        let mut before = PreviousSample::default();
        assert!(kernel.cpu(&mut before).is_none(), "the first reading has nothing to compare with");
        let later = "cpu  150 0 150 750 150 0 0 0 0 0\ncpu0 100 0 100 350 50 0 0 0\ncpu1 50 0 50 400 100 0 0 0\n";
        std::fs::write(folder.path().join("proc/stat"), later).expect("written");
        let values = kernel.cpu(&mut before).expect("a second reading");
        assert_eq!(values.0[&each_of("load")], FieldValue::Past(vec![100.0, 0.0]), "one works, one rests");
        assert_eq!(shown(values), "load=50 cores=2 value=50 load each=0");
        assert!(kernel.cpu(&mut before).is_none(), "no time has passed");
        std::fs::write(folder.path().join("proc/stat"), "rubbish").expect("written");
        assert!(kernel.cpu(&mut before).is_none());
    }

    #[test]
    fn every_source_reads_what_the_kernel_writes() {
        let (_folder, kernel) = made(&[
            ("proc/meminfo", "MemTotal:       1000 kB\nMemFree:  1 kB\nMemAvailable:    250 kB\n"),
            ("proc/loadavg", "0.42 0.37 0.31 2/184 4711\n"),
            ("proc/uptime", "273600.52 1000.00\n"),
            ("proc/net/route", "Iface Destination Gateway\nwlan0 00000000 0101A8C0 0003\n"),
            ("proc/1/stat", ""),
            ("proc/22/stat", ""),
            ("sys/class/net/wlan0/operstate", "up\n"),
            ("sys/class/net/wlan0/statistics/rx_bytes", "5000\n"),
            ("sys/class/net/wlan0/statistics/tx_bytes", "100\n"),
            ("sys/class/power_supply/AC/type", "Mains\n"),
            ("sys/class/power_supply/BAT0/type", "Battery\n"),
            ("sys/class/power_supply/BAT0/status", "Discharging\n"),
            ("sys/class/power_supply/BAT0/energy_full", "50000000\n"),
            ("sys/class/power_supply/BAT0/energy_now", "25000000\n"),
            ("sys/class/power_supply/BAT0/power_now", "10000000\n"),
            ("sys/class/backlight/panel/brightness", "300\n"),
            ("sys/class/backlight/panel/max_brightness", "600\n"),
            ("sys/class/thermal/thermal_zone0/type", "board\n"),
            ("sys/class/thermal/thermal_zone0/temp", "41500\n"),
            ("sys/class/hwmon/hwmon0/name", "disk\n"),
            ("sys/class/hwmon/hwmon0/temp1_input", "30000\n"),
        ]);
        assert_eq!(ask(&kernel, BuiltInSource::Memory, ""), "used=768000 free=256000 total=1024000 percent=75 value=75");
        assert_eq!(ask(&kernel, BuiltInSource::Load, ""), "one=0.4 five=0.4 fifteen=0.3 value=0.4");
        assert_eq!(ask(&kernel, BuiltInSource::Uptime, ""), "days=3 hours=4 minutes=0 text=3 d 4 h value=3 d 4 h");
        assert_eq!(ask(&kernel, BuiltInSource::Processes, ""), "count=2 running=2 value=2");
        assert_eq!(ask(&kernel, BuiltInSource::Network, ""), "name=wlan0 state=up down=0 up=0 value=wlan0");
        assert_eq!(ask(&kernel, BuiltInSource::Battery, ""), "percent=50 state=discharging value=50 left=2:30");
        assert_eq!(ask(&kernel, BuiltInSource::Backlight, ""), "percent=50 value=50");
        assert_eq!(ask(&kernel, BuiltInSource::Temperature, ""), "degrees=41.5 name=board value=42");
        assert_eq!(ask(&kernel, BuiltInSource::Temperature, "disk"), "degrees=30 name=disk value=30");
        assert!(ask(&kernel, BuiltInSource::Disk, "/").starts_with("used="));
    }

    #[test]
    fn what_is_not_there_is_said() {
        let (_folder, kernel) = made(&[("proc/x", ""), ("sys/x", "")]);
        assert_eq!(ask(&kernel, BuiltInSource::Battery, ""), "this computer has no battery");
        assert_eq!(ask(&kernel, BuiltInSource::Temperature, "lid"), "this computer has no such temperature sensor");
        assert_eq!(ask(&kernel, BuiltInSource::Network, "eth7"), "this computer has no network interface that is up");
        assert!(ask(&kernel, BuiltInSource::Disk, "/no/such/folder").contains("/no/such/folder"));
        assert_eq!(ask(&kernel, BuiltInSource::Title, ""), "nothing", "what the desk knows is not asked of the kernel");
    }

    #[test]
    fn rates_are_bytes_a_second_between_two_readings() {
        let (folder, kernel) = made(&[
            ("sys/class/net/eth0/operstate", "up\n"),
            ("sys/class/net/eth0/statistics/rx_bytes", "1000\n"),
            ("sys/class/net/eth0/statistics/tx_bytes", "1000\n"),
        ]);
        let (mut before, now) = (PreviousSample::default(), Instant::now());
        assert!(kernel.network("", &mut before, now).is_some());
        std::fs::write(folder.path().join("sys/class/net/eth0/statistics/rx_bytes"), "3000").expect("written");
        let later = kernel.network("", &mut before, now + std::time::Duration::from_secs(2)).expect("values");
        assert_eq!(shown(later), "name=eth0 state=up down=1000 up=0 value=eth0");
    }
}
