//! What there is to say: modules of the rice, and what every computer knows of itself.

use std::time::{Duration, Instant};

use jovrik_core::check::{CheckedRice, HostInfo};
use jovrik_core::greeting::Fact;
use jovrik_core::rice::{BuiltInSource, GreetingSettings, Rice, SourceKind};
use jovrik_schema::TimeSpan;
use jovrik_source::{Engine, ask_once};
use jovrik_text::problem::count;
use jovrik_values::{FieldValue, Grade, IconRef, Pattern, Values};
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use serde_json::json;

use super::store::{CachedFact, now, remember, remembered, store};
use crate::context::Context;

/// What is remembered is written no more often than this, unless it is other.
const FRESH: u64 = 60;

/// A fact as it was asked.
#[derive(Debug, Clone, Default)]
pub struct FactValue {
    pub text: String,
    pub part: Option<f32>,
    pub role: &'static str,
    pub age: Option<Duration>,
}

/// The modules among the facts.
pub fn modules<'r>(rice: &'r Rice, facts: &'r [String]) -> Vec<&'r String> {
    facts.iter().filter(|fact| rice.module.contains_key(*fact)).collect()
}

/// Asks modules until all have said something, or a time has come.
pub fn ask_modules(rice: &Rice, names: &[&String], within: Duration) -> Engine {
    let began = Instant::now();
    let mut engine = Engine::of_modules(rice, &|name| names.iter().any(|own| *own == name), began);
    engine.step(began);
    let quiet = |engine: &Engine| {
        let health = engine.health(Instant::now());
        health.iter().any(|(name, health)| !engine.known().contains_key(name) && health.trouble.is_none())
    };
    while began.elapsed() < within && quiet(&engine) {
        let until = engine.next().into_iter().chain([began + within]).min().unwrap_or(began);
        let left = until.saturating_duration_since(Instant::now());
        let timeout = Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
        let fds: Vec<_> = engine.fds().collect();
        let mut polled: Vec<PollFd<'_>> = fds.iter().map(|fd| PollFd::new(fd, PollFlags::IN)).collect();
        let _ = poll(&mut polled, Some(&timeout));
        drop(polled);
        drop(fds);
        engine.step(Instant::now());
    }
    engine
}

/// What values are of a whole.
fn part(values: &Values) -> Option<f32> {
    let percent = values.0.get("percent").and_then(FieldValue::number).filter(|percent| percent.is_finite())?;
    Some((percent / 100.0).clamp(0.0, 1.0) as f32)
}

pub fn of_module(rice: &Rice, name: &str, values: &Values) -> Option<FactValue> {
    let module = rice.module.get(name)?;
    let text = module.case(values).0.fill(values)?;
    let role = match values.grade(&module.grades) {
        Grade::Plain => "",
        Grade::Active => "accent",
        Grade::Warn => "warn",
        Grade::Urgent => "alert",
    };
    Some(FactValue { text, part: part(values), role, age: None })
}

/// A source that every computer has, filled into a pattern.
fn built_in(source: BuiltInSource, pattern: &str) -> Option<FactValue> {
    let values = ask_once(source)?;
    let text = Pattern::parse(pattern).ok()?.fill(&values)?;
    Some(FactValue { text, part: part(&values), ..FactValue::default() })
}

/// The folders whose entries are packages, and what those end in.
const PACKAGES: &[(&str, &str)] = &[("/var/lib/dpkg/info", ".list"), ("/var/lib/pacman/local", ""), ("/var/db/pkg", "")];

/// A fact that every computer has; nothing where this one does not know it.
pub fn of_computer(name: &str, checked: &CheckedRice, context: &Context) -> Option<FactValue> {
    let said = |text: String| Some(FactValue { text, ..FactValue::default() }).filter(|asked| !asked.text.is_empty());
    let set = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
    let last = |path: String| path.rsplit('/').next().unwrap_or_default().to_owned();
    match name {
        "host" => said(context.host.clone()),
        "kernel" => {
            let name = rustix::system::uname();
            said(format!("{} {}", name.sysname().to_string_lossy(), name.release().to_string_lossy()))
        }
        "uptime" => built_in(BuiltInSource::Uptime, "{text}"),
        "memory" => built_in(BuiltInSource::Memory, "{used:bytes} of {total:bytes}"),
        "disk" => built_in(BuiltInSource::Disk, "{used:bytes} of {total:bytes}"),
        "battery" => built_in(BuiltInSource::Battery, "{percent:.0} %, {state}"),
        "shell" => said(last(set("SHELL")?)),
        "terminal" => said(set("TERM_PROGRAM").or_else(|| set("TERM"))?),
        "face" => said(format!("{}, {}", checked.rice.r#type.mono, checked.rice.r#type.size.0)),
        "rice" => said(format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version)),
        "desk" => desk(context).and_then(said),
        "users" => {
            let sessions = std::fs::read_dir("/run/systemd/users").ok()?.count();
            said(count(sessions, "user"))
        }
        "packages" => {
            let one = |(folder, end): &(&str, &str)| {
                let entries = std::fs::read_dir(folder).ok()?;
                let named = |name: std::ffi::OsString| name.to_string_lossy().ends_with(end);
                Some(entries.filter_map(Result::ok).filter(|entry| named(entry.file_name())).count()).filter(|count| *count > 0)
            };
            said(PACKAGES.iter().find_map(one)?.to_string())
        }
        "address" => said(address()?),
        "resolution" => {
            set("DISPLAY")?;
            let monitors = context.this_computer().monitors()?;
            let sizes: Vec<String> = monitors.iter().map(|one| format!("{}x{}", one.area.w, one.area.h)).collect();
            said(sizes.join(", "))
        }
        _ => None,
    }
}

/// The address by which this computer would be seen from outside; nothing is sent to find it out.
fn address() -> Option<String> {
    let socket = std::net::UdpSocket::bind("0.0.0.0:0").ok()?;
    // A documentation address (RFC 5737): to connect a datagram socket sends nothing.
    socket.connect("192.0.2.1:9").ok()?;
    let address = socket.local_addr().ok()?.ip();
    (!address.is_unspecified()).then(|| address.to_string())
}

/// What the running desktop shows: the workspace one is on, and how many windows there are.
fn desk(context: &Context) -> Option<String> {
    let display = std::env::var("DISPLAY").ok()?;
    let socket = jovrik_live::socket_path(&context.home.runtime, &display);
    let within = Duration::from_millis(40);
    let ask = |what: &str| jovrik_live::request_within(&socket, &json!({ "ask": what }), within).ok();
    let windows = ask("windows")?.as_array().map(Vec::len)?;
    let workspaces = ask("workspaces")?;
    let here = workspaces.as_array()?.iter().find(|one| one["focused"] == true);
    let name = here.and_then(|one| one["workspace"].as_str()).map(|name| format!("{name}, ")).unwrap_or_default();
    Some(format!("{name}{}", count(windows, "window")))
}

/// The facts of a rice, as they are now or were the last time; and whether some were too slow.
pub fn facts(checked: &CheckedRice, context: &Context) -> (Vec<Fact>, Vec<FactValue>, bool) {
    let (rice, set) = (&*checked.rice, &checked.rice.greeting);
    let path = store(context);
    let mut kept = remembered(&path);
    let names = modules(rice, &set.facts);
    let began = Instant::now();
    let engine = ask_modules(rice, &names, set.wait.0);
    let (mut late, mut changed, at) = (false, false, now());
    let mut all = Vec::new();
    for name in &set.facts {
        let asked = if names.contains(&name) {
            let fresh = engine.known().get(name).and_then(|values| of_module(rice, name, values));
            let standing = rice.module[name].source.kind == SourceKind::None;
            match fresh {
                Some(asked) => {
                    let before = kept.get(name);
                    changed |= before.is_none_or(|before| before.text != asked.text || at.saturating_sub(before.at) > FRESH);
                    kept.insert(name.clone(), CachedFact { text: asked.text.clone(), part: asked.part, at });
                    Some(asked)
                }
                None if standing => of_module(rice, name, &Values::default()),
                None => {
                    // Where there is no such program, nothing better comes of waiting.
                    late |= engine.health(Instant::now()).get(name).is_some_and(|health| health.trouble.is_none());
                    let age = |before: &CachedFact| Duration::from_secs(at.saturating_sub(before.at));
                    kept.get(name).map(|before| FactValue {
                        text: before.text.clone(),
                        part: before.part,
                        age: Some(age(before)),
                        ..FactValue::default()
                    })
                }
            }
        } else {
            of_computer(name, checked, context)
        };
        tracing::debug!(fact = %name, known = asked.is_some(), since = ?began.elapsed(), "asked");
        if let Some(asked) = asked {
            all.push((name, asked));
        }
    }
    if changed {
        remember(&path, &kept);
    }
    let shown = all.iter().map(|(name, asked)| fact(set, rice, name, asked)).collect();
    (shown, all.into_iter().map(|(_, asked)| asked).collect(), late)
}

fn fact(set: &GreetingSettings, rice: &Rice, name: &str, asked: &FactValue) -> Fact {
    let label = set.label.get(name).cloned().unwrap_or_else(|| name.replace(['-', '_'], " "));
    let of_module = || match rice.module.get(name).map(|module| &module.icon) {
        Some(IconRef::Character(sign)) => Some(sign.clone()),
        _ => None,
    };
    Fact {
        name: name.to_owned(),
        label,
        sign: set.sign.get(name).cloned().or_else(of_module).unwrap_or_default(),
        text: asked.text.clone(),
        role: asked.role,
        part: asked.part,
        age: asked.age.map_or_else(String::new, |age| format!("{} ago", TimeSpan::words(rough(age)))),
    }
}

/// An age in the largest unit that there is.
fn rough(age: Duration) -> Duration {
    let seconds = age.as_secs();
    let step = [86_400, 3600, 60].into_iter().find(|step| seconds >= *step).unwrap_or(1);
    Duration::from_secs((seconds / step * step).max(1))
}
