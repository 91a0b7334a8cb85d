//! What the program does while it does it, for whoever looks for a fault: `-v`, `-vv`, or `JOVRIK_LOG`.

use tracing_subscriber::filter::{LevelFilter, Targets};
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// Begins to write down on standard error what happens, as far as it was asked for.
///
/// `JOVRIK_LOG` names a level (`error`, `warn`, `info`, `debug`, `trace`), or one for each part: `jovrik_live=debug`.
pub fn begin(verbose: u8, asked: Option<&str>) {
    let level = match verbose {
        0 => LevelFilter::OFF,
        1 => LevelFilter::INFO,
        2 => LevelFilter::DEBUG,
        _ => LevelFilter::TRACE,
    };
    let own = asked.and_then(|text| text.parse::<Targets>().ok());
    if own.is_none() && level == LevelFilter::OFF {
        return;
    }
    let targets = own.unwrap_or_else(|| Targets::new().with_target("jovrik", level));
    let lines = tracing_subscriber::fmt::layer().with_writer(std::io::stderr).with_ansi(false).without_time();
    // A second subscriber in one process is refused; the first one goes on.
    let _ = tracing_subscriber::registry().with(lines).with(targets).try_init();
}
