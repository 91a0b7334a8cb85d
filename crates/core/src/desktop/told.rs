//! What programs tell over the bus (the Desktop Notifications Specification), as the machine has it.

use std::time::Duration;

use super::effect::Effect;
use super::machine::Desktop;
use crate::part::Wish;

/// How urgent something is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Urgency {
    /// It can wait.
    Low,
    /// As most.
    #[default]
    Normal,
    /// It cannot wait.
    Urgent,
}

impl Urgency {
    /// Its word.
    pub fn word(self) -> &'static str {
        match self {
            Urgency::Low => "low",
            Urgency::Normal => "normal",
            Urgency::Urgent => "urgent",
        }
    }
}

/// Something that a program tells.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Telling {
    /// Its number.
    pub id: u32,
    /// The program's name.
    pub app: String,
    /// The first line.
    pub title: String,
    /// What follows, without markup.
    pub body: String,
    /// How urgent it is.
    pub urgency: Urgency,
    /// How long it stays: as the settings say, a time, or until it is taken away.
    pub lasts: Lasts,
    /// What can be done about it: a key, and its label; the key `default` is that of a press.
    pub actions: Vec<(String, String)>,
    /// A value in hundredths.
    pub value: Option<u8>,
    /// Whether it stays after something was done about it.
    pub resident: bool,
    /// Whether it is not worth being remembered.
    pub transient: bool,
}

/// How long one stays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Lasts {
    /// As the settings say for its urgency.
    #[default]
    AsSet,
    /// So long.
    For(Duration),
    /// Until it is taken away.
    Ever,
}

/// Why one is gone (the specification's reasons).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Gone {
    /// Its time was over.
    Expired = 1,
    /// A person took it away.
    Dismissed = 2,
    /// Its program took it back.
    Closed = 3,
}

/// What is done with all of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Dealing {
    /// The latest goes.
    Dismiss,
    /// All go.
    DismissAll,
    /// Only urgent ones are shown from now on, or all again.
    Pause,
}

/// So many are remembered.
const MOST: usize = 100;

impl Desktop {
    /// What programs have told, the latest first.
    pub fn tellings(&self) -> impl Iterator<Item = &Telling> {
        self.tellings.iter()
    }

    /// Whether only urgent ones are shown.
    pub fn quiet(&self) -> bool {
        self.quiet
    }

    /// A program tells something, or tells it otherwise.
    pub(super) fn told(&mut self, telling: Telling, effects: &mut Vec<Effect>) {
        self.tellings.retain(|other| other.id != telling.id);
        if !telling.transient {
            self.tellings.push_front(telling.clone());
            self.tellings.truncate(MOST);
        }
        if self.quiet && telling.urgency != Urgency::Urgent {
            return;
        }
        self.wish(Wish::Tell(Box::new(telling)), effects);
    }

    pub(super) fn deal(&mut self, dealing: Dealing, effects: &mut Vec<Effect>) {
        if dealing == Dealing::Pause {
            self.quiet = !self.quiet;
        }
        self.wish(Wish::Deal(dealing, self.quiet), effects);
    }
}

/// The text of a body with its markup taken out: `<b>`, `<i>`, `<u>` and links are what the specification allows; what else
/// looks like a tag is shown as it is.
pub fn plain(body: &str) -> String {
    let mut text = String::with_capacity(body.len());
    let mut rest = body;
    while let Some(at) = rest.find(['<', '&']) {
        text.push_str(&rest[..at]);
        rest = &rest[at..];
        let entity = [("&amp;", '&'), ("&lt;", '<'), ("&gt;", '>'), ("&quot;", '"'), ("&apos;", '\'')];
        if let Some((name, sign)) = entity.into_iter().find(|(name, _)| rest.starts_with(name)) {
            text.push(sign);
            rest = &rest[name.len()..];
            continue;
        }
        let end = rest.starts_with('<').then(|| rest.find('>')).flatten();
        let tag = end.map(|end| rest[1..end].trim_start_matches('/'));
        let word = tag.and_then(|tag| tag.split_whitespace().next()).unwrap_or_default();
        match end {
            Some(end) if ["b", "i", "u", "a"].contains(&word.to_ascii_lowercase().as_str()) => rest = &rest[end + 1..],
            // A picture is told by its words.
            Some(end) if word.eq_ignore_ascii_case("img") => {
                let alt = rest[..end].split("alt=\"").nth(1).and_then(|alt| alt.split('"').next());
                text.push_str(alt.unwrap_or_default());
                rest = &rest[end + 1..];
            }
            _ => {
                let first = rest.chars().next().map_or(1, char::len_utf8);
                text.push_str(&rest[..first]);
                rest = &rest[first..];
            }
        }
    }
    text.push_str(rest);
    text
}

#[cfg(test)]
mod tests {
    use super::plain;

    #[test]
    fn markup_is_taken_out_and_what_is_none_is_shown() {
        let both = [
            ("<b>Low</b> water &amp; <i>ebb</i>", "Low water & ebb"),
            ("<a href=\"x\">chart</a> <img src=\"y\" alt=\"a gauge\"/>", "chart a gauge"),
            ("1 < 2 <script>x</script> &nbsp;", "1 < 2 <script>x</script> &nbsp;"),
            ("<", "<"),
            ("&", "&"),
            ("\u{2191}<u>\u{2193}", "\u{2191}\u{2193}"),
        ];
        for (body, text) in both {
            assert_eq!(plain(body), text);
        }
    }
}
