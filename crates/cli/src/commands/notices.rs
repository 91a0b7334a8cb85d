//! `jovrik notices`

use std::time::Duration;

use jovrik_core::desktop::{ExpireTimeout, Notification};
use jovrik_core::rice::Urgency;
use jovrik_live::{request, socket_path, tell};
use jovrik_schema::TimeSpan;
use jovrik_values::{Icon, IconRef};
use serde_json::{Value, json};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};
use crate::typed::{time, until};

/// What programs want to tell: one of each kind, one of yours, what there was
#[derive(Debug, clap::Args)]
pub struct Arguments {
    #[command(subcommand)]
    command: What,
}

#[derive(Debug, clap::Subcommand)]
enum What {
    /// Tell one of each kind over the session bus
    Try,
    /// Tell something over the session bus
    Show(Show),
    /// What was told, the latest first
    History {
        /// The answer as one JSON object
        #[arg(long)]
        json: bool,
    },
    /// Show urgent ones alone from now on, or all again
    Pause {
        /// For so long, or until a time of the day
        #[arg(value_name = "TIME|HH:MM", value_parser = until)]
        until: Option<Duration>,
    },
    /// Take the latest away
    Dismiss {
        /// All of them
        #[arg(long)]
        all: bool,
    },
}

#[derive(Debug, clap::Args)]
struct Show {
    /// The first line
    title: String,
    /// What follows
    #[arg(default_value = "")]
    body: String,
    /// How urgent it is
    #[arg(long, value_parser = ["low", "normal", "urgent"], default_value = "normal")]
    urgency: String,
    /// A value in hundredths, shown as a bar
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(0..=100))]
    value: Option<u8>,
    /// Of what it is: a later one of the same takes its place
    #[arg(long, value_name = "NAME")]
    of: Option<String>,
    /// The picture beside it: a name of ours such as speaker, one of the icon theme, or a file
    #[arg(long, value_name = "NAME")]
    icon: Option<String>,
    /// How long it stays
    #[arg(long, value_name = "TIME", value_parser = time)]
    last: Option<Duration>,
}

fn urgency(word: &str) -> Urgency {
    match word {
        "low" => Urgency::Low,
        "urgent" => Urgency::Urgent,
        _ => Urgency::Normal,
    }
}

/// One of each kind, as the station would tell them.
fn samples() -> [Notification; 4] {
    let one = |title: &str, body: &str, urgency: Urgency| Notification {
        app: "loghouse".to_owned(),
        title: title.to_owned(),
        body: body.to_owned(),
        urgency,
        ..Notification::default()
    };
    let can = [("default", "Open"), ("chart", "Open the chart"), ("later", "Later")];
    [
        one("Gauge 3 answers again", "", Urgency::Low),
        Notification { value: Some(64), ..one("Volume", "64 %", Urgency::Normal) },
        Notification {
            actions: can.map(|(key, label)| (key.to_owned(), label.to_owned())).to_vec(),
            ..one("Low water in two hours", "Channel 4 dries at <b>09:00</b>. Bring the boat past the bar.", Urgency::Normal)
        },
        one("Gate 2 does not close", "The motor runs, and the sensor says <i>open</i>.", Urgency::Urgent),
    ]
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let socket = |context: &Context| super::live::display().map(|display| socket_path(&context.home.runtime, &display));
    let deal = |context: &Context, what: &str| -> Result<Exit, CommandError> {
        request(&socket(context)?, &json!({ "tell": format!("notices {what}") }))?;
        Ok(Exit::Done)
    };
    match arguments.command {
        What::Try => {
            for telling in samples() {
                tell(&telling, None)?;
            }
            Ok(Exit::Done)
        }
        What::Show(show) => {
            let telling = Notification {
                app: "jovrik".to_owned(),
                title: show.title,
                body: show.body,
                urgency: urgency(&show.urgency),
                value: show.value,
                picture: show.icon.map(|name| IconRef::Themed(name, Icon::None)),
                lasts: show.last.map_or(ExpireTimeout::AsSet, ExpireTimeout::For),
                ..Notification::default()
            };
            tell(&telling, show.of.as_deref())?;
            Ok(Exit::Done)
        }
        What::Pause { until: None } => deal(context, "pause"),
        What::Pause { until: Some(time) } => deal(context, &format!("pause {}", TimeSpan::words(time))),
        What::Dismiss { all } => deal(context, if all { "dismiss-all" } else { "dismiss" }),
        What::History { json } => {
            let answer = request(&socket(context)?, &json!({ "ask": "notices" }))?;
            if json {
                writeln!(context.out, "{}", json!({ "version": jovrik_live::VERSION, "notices": answer }))?;
                return Ok(Exit::Done);
            }
            let field = |row: &Value, name: &str| row[name].as_str().unwrap_or_default().replace('\n', " ");
            let heading = ["app", "urgency", "title", "body"].map(|name| Meaning::Second.paint(name)).to_vec();
            let rows: Vec<&Value> = answer.as_array().into_iter().flatten().collect();
            if rows.is_empty() {
                writeln!(context.out, "  nothing was told yet")?;
                return Ok(Exit::Done);
            }
            let row = |row: &&Value| ["app", "urgency", "title", "body"].map(|name| field(row, name)).to_vec();
            let table: Vec<Vec<String>> = std::iter::once(heading).chain(rows.iter().map(row)).collect();
            for line in columns(&table, "  ", context.width) {
                writeln!(context.out, "{line}")?;
            }
            Ok(Exit::Done)
        }
    }
}
