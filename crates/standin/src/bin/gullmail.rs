//! The stand-in for the station's letters: `gullmail [N]` tells of N letters over the session bus, and says what is chosen.

use std::collections::HashMap;
use std::io::Write;
use std::pin::Pin;
use std::process::ExitCode;

use zbus::export::futures_core::Stream;
use zbus::message::Type;
use zbus::zvariant::Variant;
use zbus::{Connection, MatchRule, Message, MessageStream};

const NAME: &str = "org.freedesktop.Notifications";
const PATH: &str = "/org/freedesktop/Notifications";

/// The letters of a day: who writes, and what.
const LETTERS: [(&str, &str); 3] = [
    ("The lock", "The gate is yours until <b>nine</b>."),
    ("The bar", "A buoy is out of its place: see <a href=\"https://station.example/notices\">the notices</a>."),
    ("The yearbook", "The tables of April are in."),
];

/// Tells of a letter; its number.
async fn tell(bus: &Connection, (title, body): (&str, &str)) -> zbus::Result<u32> {
    let actions = ["default", "Read it", "answer", "Answer"];
    let hints: HashMap<&str, Variant<'_>> = HashMap::from([("category", Variant::from("email.arrived"))]);
    let letter = ("gullmail", 0_u32, "", title, body, actions.as_slice(), hints, -1_i32);
    bus.call_method(Some(NAME), PATH, Some(NAME), "Notify", &letter).await?.body().deserialize()
}

/// What comes next.
async fn next(stream: &mut MessageStream) -> Option<zbus::Result<Message>> {
    std::future::poll_fn(|context| Pin::new(&mut *stream).poll_next(context)).await
}

/// Tells of so many letters, and waits until each is dealt with.
async fn letters(count: usize, out: &mut dyn Write) -> Result<(), Box<dyn std::error::Error>> {
    let bus = Connection::session().await?;
    let rule = MatchRule::builder().msg_type(Type::Signal).interface(NAME).build()?;
    let mut signals = MessageStream::for_match_rule(rule, &bus, None).await?;
    let mut waits = HashMap::new();
    for letter in LETTERS.into_iter().cycle().take(count) {
        waits.insert(tell(&bus, letter).await?, letter.0);
    }
    while let Some(signal) = next(&mut signals).await {
        let signal = signal?;
        let header = signal.header();
        match header.member().map(|member| member.as_str()) {
            Some("ActionInvoked") => {
                let (number, deed): (u32, String) = signal.body().deserialize()?;
                if let Some(title) = waits.get(&number) {
                    writeln!(out, "{title}: {deed}")?;
                }
            }
            Some("NotificationClosed") => {
                let (number, _): (u32, u32) = signal.body().deserialize()?;
                waits.remove(&number);
            }
            _ => {}
        }
        if waits.is_empty() {
            return Ok(());
        }
    }
    Ok(())
}

fn main() -> ExitCode {
    let count = std::env::args().nth(1).map_or(Ok(1), |count| count.parse::<usize>());
    let Ok(count) = count else {
        let _ = writeln!(anstream::stderr(), "gullmail [N]: tells of N letters");
        return ExitCode::from(2);
    };
    match zbus::block_on(letters(count.clamp(1, 20), &mut anstream::stdout())) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            let _ = writeln!(anstream::stderr(), "gullmail: {error}");
            ExitCode::FAILURE
        }
    }
}
