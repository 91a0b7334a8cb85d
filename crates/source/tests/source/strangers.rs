//! Whatever programs print and files hold: the last whole line is the value, nothing waits, and no number is none.

use std::fs::File;
use std::io::Write as _;
use std::path::Path;
use std::time::{Duration, Instant};

use jovrik_source::{Engine, Kernel};
use jovrik_values::{FieldSelectors, FieldValue, ModuleValues, Values};
use proptest::prelude::*;
use rustix::fs::{CWD, FileType, Mode, mknodat};

use crate::{rice, trouble, until, value};

fn pipe(path: &Path) {
    mknodat(CWD, path, FileType::Fifo, Mode::RUSR | Mode::WUSR, 0).expect("a pipe");
}

/// A stream that says what is written to it.
struct Piped {
    engine: Engine,
    to: File,
    _folder: tempfile::TempDir,
}

impl Piped {
    fn new() -> Piped {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("pipe");
        pipe(&path);
        let text = format!("[bar.top]\nend = [\"s\"]\n[module.s]\nsource = {{ stream = [\"cat\", {path:?}] }}\n");
        let mut engine = Engine::new(&rice(&text), Instant::now());
        engine.step(Instant::now());
        // Opened both ways: nobody waits for the other side.
        let to = File::options().read(true).write(true).open(&path).expect("it is there");
        Piped { engine, to, _folder: folder }
    }

    fn said(&self) -> Option<&Values> {
        self.engine.known().get("s")
    }
}

/// What a stream has said after some bytes: the last whole line that is not too long, on its own.
fn last_line(all: &[u8]) -> Option<Values> {
    let end = all.iter().rposition(|byte| *byte == b'\n')?;
    let line = all[..end].split(|byte| *byte == b'\n').next_back()?;
    Some(Values::of_output(&String::from_utf8_lossy(line), &FieldSelectors::default()).expect("nothing is picked"))
}

fn chunk() -> impl Strategy<Value = Vec<u8>> {
    let bytes = prop_oneof![4 => b'a'..=b'e', 2 => Just(b'\n'), 1 => Just(b' '), 1 => Just(b'\r'), 1 => any::<u8>()];
    prop_oneof![
        8 => prop::collection::vec(bytes, 1..40),
        1 => Just(b"{\"value\": 3}\n".to_vec()),
        1 => "[0-9]{1,6}\n".prop_map(String::into_bytes),
    ]
}

/// What a file of the kernel may hold.
fn content() -> impl Strategy<Value = String> {
    prop_oneof![
        Just(String::new()),
        "-?[0-9]{1,22}\n",
        "[0-9]{1,4}\\.[0-9]{1,3} [0-9.]{1,6} [0-9.]{1,6} [0-9]{1,3}/[0-9]{1,5} [0-9]{1,5}\n",
        Just("NaN\n".to_owned()),
        Just("inf\n".to_owned()),
        Just("-1e999\n".to_owned()),
        Just("Battery\n".to_owned()),
        Just("Discharging\n".to_owned()),
        Just("up\n".to_owned()),
        "cpu  ([0-9]{1,20} ){0,9}[0-9]{1,20}\ncpu0 ([0-9]{1,20} ){0,9}\n",
        "MemTotal: {1,4}-?[0-9]{1,20} kB\nMemAvailable: {1,4}-?[0-9]{1,20} kB\n",
        Just("MemTotal: NaN kB\nMemAvailable: inf kB\n".to_owned()),
        Just("Iface Destination\nwlan0 00000000 1\n".to_owned()),
        "\\PC{0,40}",
    ]
}

const FILES: [&str; 22] = [
    "proc/stat",
    "proc/meminfo",
    "proc/loadavg",
    "proc/uptime",
    "proc/net/route",
    "sys/class/net/wlan0/operstate",
    "sys/class/net/wlan0/statistics/rx_bytes",
    "sys/class/net/wlan0/statistics/tx_bytes",
    "sys/class/power_supply/BAT0/type",
    "sys/class/power_supply/BAT0/status",
    "sys/class/power_supply/BAT0/capacity",
    "sys/class/power_supply/BAT0/energy_full",
    "sys/class/power_supply/BAT0/energy_now",
    "sys/class/power_supply/BAT0/power_now",
    "sys/class/backlight/lamp/max_brightness",
    "sys/class/backlight/lamp/brightness",
    "sys/class/thermal/thermal_zone0/type",
    "sys/class/thermal/thermal_zone0/temp",
    "sys/class/hwmon/hwmon0/name",
    "sys/class/hwmon/hwmon0/temp1_input",
    "proc/1/stat",
    "proc/self/stat",
];

const KINDS: [&str; 9] = ["cpu", "memory", "network", "battery", "backlight", "temperature", "load", "uptime", "processes"];

/// Whether every number is one, and every share lies between nothing and all.
fn sane(known: &ModuleValues) -> Result<(), String> {
    for (name, values) in known {
        for (field, value) in &values.0 {
            let share = ["percent", "load"].contains(&field.as_str()) && name != "load";
            let numbers: Vec<f64> = match value {
                FieldValue::Number(number) => vec![*number],
                FieldValue::Past(numbers) => numbers.clone(),
                _ => Vec::new(),
            };
            let fine = |number: &f64| number.is_finite() && (!share || (0.0..=100.0).contains(number));
            if !numbers.iter().all(fine) {
                return Err(format!("{name}.{field} is {numbers:?}"));
            }
        }
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_last_whole_line_is_the_value_however_it_comes(chunks in prop::collection::vec(chunk(), 1..8)) {
        let mut piped = Piped::new();
        let mut all = Vec::new();
        for chunk in chunks {
            piped.to.write_all(&chunk).expect("written");
            all.extend(chunk);
            if let Some(wanted) = last_line(&all) {
                let Piped { engine, .. } = &mut piped;
                until(engine, "the line is there", |engine| engine.known().get("s") == Some(&wanted));
            } else {
                piped.engine.step(Instant::now());
                prop_assert_eq!(piped.said(), None, "half a line is no value");
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn whatever_the_kernel_says_no_number_is_none(first in prop::collection::vec(prop::option::of(content()), FILES.len()),
                                                   then in prop::collection::vec(prop::option::of(content()), FILES.len())) {
        let folder = tempfile::tempdir().expect("a folder");
        let write = |files: &[Option<String>]| {
            for (name, content) in FILES.iter().zip(files) {
                let path = folder.path().join(name);
                std::fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
                if let Some(content) = content {
                    std::fs::write(path, content).expect("written");
                }
            }
        };
        write(&first);
        let names: Vec<String> = KINDS.iter().map(|kind| format!("{kind:?}")).collect();
        let modules: String =
            KINDS.iter().map(|kind| format!("[module.{kind}]\nsource = {{ kind = \"{kind}\", every = \"1s\" }}\n")).collect();
        let text = format!("[bar.top]\nend = [{}]\n{modules}", names.join(", "));
        let kernel = Kernel { proc: folder.path().join("proc"), sys: folder.path().join("sys") };
        let start = Instant::now();
        let mut engine = Engine::with(&rice(&text), start, kernel, |_| Duration::ZERO);
        for second in 0..4 {
            if second == 2 {
                write(&then);
            }
            engine.step(start + Duration::from_secs(second));
            prop_assert_eq!(sane(engine.known()), Ok(()));
        }
        // Each has a value, or somebody is told why not; the processor needs two readings of which the second is later.
        for (name, health) in engine.health(start) {
            let known = engine.known().get(&name).is_some_and(|values| !values.0.is_empty());
            prop_assert!(known || health.trouble.is_some() || name == "cpu", "{} says nothing: {:?}", name, health);
        }
    }
}

#[test]
fn a_line_that_is_too_long_is_passed_over() {
    let mut piped = Piped::new();
    let put = |piped: &mut Piped, bytes: &[u8]| {
        // A pipe holds less than that: it is emptied meanwhile.
        for part in bytes.chunks(16 * 1024) {
            piped.to.write_all(part).expect("written");
            std::thread::sleep(Duration::from_millis(20));
            piped.engine.step(Instant::now());
        }
    };
    put(&mut piped, b"ebb\n");
    until(&mut piped.engine, "a line", |engine| value(engine, "s").as_deref() == Some("ebb"));
    put(&mut piped, &vec![b'x'; 200 * 1024]);
    put(&mut piped, b"\n");
    std::thread::sleep(Duration::from_millis(40));
    piped.engine.step(Instant::now());
    assert_eq!(value(&piped.engine, "s").as_deref(), Some("ebb"), "nobody reads a line of 200 KiB");
    put(&mut piped, b"flood\n");
    until(&mut piped.engine, "the next", |engine| value(engine, "s").as_deref() == Some("flood"));
    assert_eq!(trouble(&piped.engine, "s"), None);
}

#[test]
fn what_is_no_plain_file_is_told_and_nobody_waits_for_it() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    pipe(&at("pipe"));
    std::fs::create_dir(at("folder")).expect("a folder");
    std::os::unix::fs::symlink(at("nowhere"), at("link")).expect("a link");
    std::os::unix::fs::symlink(at("round"), at("round")).expect("a link");
    std::fs::write(at("long"), "y".repeat(3 << 20)).expect("written");
    std::fs::write(at("good"), "3.2 m\n").expect("written");
    let names = ["pipe", "folder", "link", "round", "long", "good"];
    let module = |name: &&str| format!("[module.{name}]\nsource = {{ file = {:?} }}\n", at(name));
    let modules: String = names.iter().map(module).collect();
    let text = format!("[bar.top]\nend = {names:?}\n{modules}");
    let began = Instant::now();
    let mut engine = Engine::new(&rice(&text), began);
    engine.step(began);
    assert!(began.elapsed() < Duration::from_secs(5), "nobody waits: {:?}", began.elapsed());
    for name in ["pipe", "folder", "link", "round"] {
        assert_eq!(value(&engine, name), None, "{name}");
        assert!(trouble(&engine, name).is_some_and(|why| why.contains(name)), "{name}: {:?}", trouble(&engine, name));
    }
    assert_eq!(value(&engine, "good").as_deref(), Some("3.2 m"));
    assert_eq!(value(&engine, "long").map(|line| line.len()), Some(64 * 1024), "as much of it as is read");
}

#[test]
fn programs_of_a_rice_that_is_gone_are_gone_too() {
    // Each a word of its own among all that runs.
    let alive = |word: &str| {
        let all = std::fs::read_dir("/proc").expect("it is there").flatten();
        let said = |entry: std::fs::DirEntry| std::fs::read(entry.path().join("cmdline")).unwrap_or_default();
        all.map(said).filter(|line| line.split(|byte| *byte == 0).any(|own| own == word.as_bytes())).count()
    };
    let text = "[bar.top]\nend = [\"a\", \"b\"]\n[module.a]\nsource = { stream = [\"sh\", \"-c\", \"sleep 7311 & echo one; sleep 7311\"] }\n\
                [module.b]\nsource = { shell = \"sleep 7312\", within = \"1m\" }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    until(&mut engine, "all run", |_| alive("7311") == 2 && alive("7312") >= 1);
    let less = rice(&text.replace("\"a\", ", ""));
    engine.replace(&less, &|_| true, Instant::now());
    until(&mut engine, "those of the stream are gone", |_| alive("7311") == 0);
    assert!(alive("7312") >= 1, "the other goes on");
    drop(engine);
    let began = Instant::now();
    while alive("7312") > 0 {
        assert!(began.elapsed() < Duration::from_secs(5), "somebody is left");
        std::thread::sleep(Duration::from_millis(10));
    }
}
