//! Values that the kernel tells.

use jovrik_core::bar::{Field, Values};

/// Processor time since the start, in ticks: busy and all.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Ticks {
    /// Not idle.
    pub busy: u64,
    /// All.
    pub all: u64,
}

/// The first line of `/proc/stat` (proc_stat(5)).
pub fn ticks(stat: &str) -> Option<Ticks> {
    let numbers: Vec<u64> =
        stat.lines().next()?.strip_prefix("cpu ")?.split_whitespace().filter_map(|word| word.parse().ok()).collect();
    let all = numbers.iter().take(8).sum();
    let idle = numbers.get(3)? + numbers.get(4)?;
    Some(Ticks { busy: all - idle.min(all), all })
}

/// The load between two readings, in percent.
pub fn load(before: Ticks, now: Ticks) -> Values {
    let all = now.all.saturating_sub(before.all);
    let busy = now.busy.saturating_sub(before.busy);
    if all == 0 {
        return Values::default();
    }
    let load = busy as f64 * 100.0 / all as f64;
    Values::one("load", Field::Number(load)).and("value", Field::Number(load.round()))
}

/// `/proc/meminfo` (proc_meminfo(5)), in bytes.
pub fn memory(info: &str) -> Option<Values> {
    let field = |name: &str| {
        let line = info.lines().find(|line| line.starts_with(name))?;
        line.split_whitespace().nth(1)?.parse::<f64>().ok().map(|kib| kib * 1024.0)
    };
    let total = field("MemTotal:").filter(|total| *total > 0.0)?;
    let used = (total - field("MemAvailable:")?).max(0.0);
    let percent = used * 100.0 / total;
    Some(
        Values::one("used", Field::Number(used))
            .and("total", Field::Number(total))
            .and("percent", Field::Number(percent))
            .and("value", Field::Number(percent.round())),
    )
}

/// The time now, in the computer's zone.
pub fn time() -> Values {
    let now = jiff::Zoned::now();
    Values::one("time", Field::Time(Box::new(now.clone()))).and("value", Field::Time(Box::new(now)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn load_is_the_busy_part_of_the_time_between_two_readings() {
        let before = ticks("cpu  100 0 100 700 100 0 0 0 0 0\ncpu0 1").expect("a line of the kernel");
        let now = ticks("cpu  150 0 150 750 150 0 0 0 0 0\n").expect("a line of the kernel");
        assert_eq!(before, Ticks { busy: 200, all: 1000 });
        assert_eq!(load(before, now).0["load"], Field::Number(50.0));
        assert!(load(now, now).0.is_empty(), "no time has passed");
        assert_eq!(ticks("intr 1 2 3"), None);
        assert_eq!(ticks("cpu  1"), None);
    }

    #[test]
    fn memory_is_what_is_not_available() {
        let values = memory("MemTotal:       1000 kB\nMemFree:  1 kB\nMemAvailable:    250 kB\n").expect("both lines");
        assert_eq!(values.0["used"], Field::Number(750.0 * 1024.0));
        assert_eq!(values.0["percent"], Field::Number(75.0));
        assert_eq!(memory("MemTotal: 0 kB"), None);
    }
}
