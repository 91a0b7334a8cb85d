//! The markup of what programs tell (Desktop Notifications Specification, "Markup"): `<b>`, `<i>`, `<u>`, `<a>` and `<img>`.
//! What else looks like a tag is shown as it is; what is never closed holds to the end.

/// A piece of a text that looks alike.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct MarkupRun {
    /// What it says.
    pub text: String,
    /// Whether it is bold.
    pub bold: bool,
    /// Whether it is underlined.
    pub underline: bool,
    /// Where it leads.
    pub link: Option<String>,
}

/// So many pieces are told apart; what follows looks as the last one.
const MAX_RUNS: usize = 200;
/// The longest place that a link leads to, in bytes.
const MAX_LINK_BYTES: usize = 2000;

/// The value of an attribute of a tag.
fn attribute<'t>(tag: &'t str, name: &str) -> Option<&'t str> {
    let mut rest = tag;
    while let Some(at) = rest.find(name) {
        let before = rest[..at].chars().next_back().is_none_or(char::is_whitespace);
        let after = rest[at + name.len()..].trim_start();
        if let (true, Some(value)) = (before, after.strip_prefix('=')) {
            let value = value.trim_start();
            let quote = value.chars().next().filter(|c| ['"', '\''].contains(c));
            return match quote {
                Some(quote) => value[1..].split(quote).next(),
                None => value.split(|c: char| c.is_whitespace() || c == '/').next(),
            };
        }
        rest = &rest[at + name.len()..];
    }
    None
}

/// Reads a body.
pub fn markup(body: &str) -> Vec<MarkupRun> {
    let mut all: Vec<MarkupRun> = Vec::new();
    let (mut bold, mut underline, mut link) = (0_usize, 0_usize, None::<String>);
    let mut text = String::with_capacity(body.len());
    let mut rest = body;
    let mut closed = true;
    while !rest.is_empty() {
        let at = rest.find(['<', '&']).unwrap_or(rest.len());
        text.push_str(&rest[..at]);
        rest = &rest[at..];
        if rest.is_empty() {
            break;
        }
        if let Some((sign, length)) = entity(rest) {
            text.push(sign);
            rest = &rest[length..];
            continue;
        }
        let word = word_of(rest);
        // Where no tag is closed any more, none is looked for: each is looked at once.
        let end = if word.is_empty() || !closed { None } else { rest.find('>') };
        closed &= word.is_empty() || end.is_some();
        let Some(end) = end else {
            let first = rest.chars().next().map_or(1, char::len_utf8);
            text.push_str(&rest[..first]);
            rest = &rest[first..];
            continue;
        };
        let tag = rest[1..end].trim_end_matches('/');
        let (closes, tag) = (tag.starts_with('/'), tag.trim_start_matches('/'));
        if word == "img" {
            // A picture is told by its words.
            text.push_str(attribute(tag, "alt").unwrap_or_default());
        } else if word != "i" && all.len() < MAX_RUNS {
            push(&mut all, &mut text, bold, underline, &link);
            let step = |level: &mut usize| *level = if closes { level.saturating_sub(1) } else { *level + 1 };
            match word {
                "b" => step(&mut bold),
                "u" => step(&mut underline),
                _ if closes => link = None,
                _ => link = attribute(tag, "href").filter(|href| href.len() <= MAX_LINK_BYTES).map(str::to_owned),
            }
        }
        rest = &rest[end + 1..];
    }
    push(&mut all, &mut text, bold, underline, &link);
    all
}

/// The word of a tag at the beginning of a text; nothing where it is none of those that are known.
fn word_of(text: &str) -> &'static str {
    let Some(tag) = text.strip_prefix('<') else { return "" };
    let tag = tag.trim_start_matches('/');
    let ends = |c: char| c.is_whitespace() || c == '/' || c == '>';
    let fits = |word: &&&str| {
        let own = tag.get(..word.len()).is_some_and(|own| own.eq_ignore_ascii_case(word));
        own && tag[word.len()..].chars().next().is_none_or(ends)
    };
    ["img", "a", "b", "i", "u"].iter().find(fits).copied().unwrap_or_default()
}

fn push(all: &mut Vec<MarkupRun>, text: &mut String, bold: usize, underline: usize, link: &Option<String>) {
    if !text.is_empty() {
        all.push(MarkupRun { text: std::mem::take(text), bold: bold > 0, underline: underline > 0, link: link.clone() });
    }
}

/// The sign that an entity at the beginning of a text stands for, and how long it is.
fn entity(text: &str) -> Option<(char, usize)> {
    const NAMED: [(&str, char); 5] = [("&amp;", '&'), ("&lt;", '<'), ("&gt;", '>'), ("&quot;", '"'), ("&apos;", '\'')];
    if let Some((name, sign)) = NAMED.into_iter().find(|(name, _)| text.starts_with(name)) {
        return Some((sign, name.len()));
    }
    let number = text.strip_prefix("&#")?;
    let end = number.bytes().take(9).position(|byte| byte == b';')?;
    let code = match number[..end].strip_prefix(['x', 'X']) {
        Some(digits) => u32::from_str_radix(digits, 16).ok()?,
        None => number[..end].parse().ok()?,
    };
    Some((char::from_u32(code)?, end + 3))
}

/// The text of pieces.
pub fn plain(pieces: &[MarkupRun]) -> String {
    pieces.iter().map(|piece| piece.text.as_str()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn markup_is_taken_out_and_what_is_none_is_shown() {
        let both = [
            ("<b>Low</b> water &amp; <i>ebb</i>", "Low water & ebb"),
            ("<a href=\"x\">chart</a> <img src=\"y\" alt=\"a gauge\"/>", "chart a gauge"),
            ("1 < 2 <script>x</script> &nbsp; &#65;&#x42;&#xzz;", "1 < 2 <script>x</script> &nbsp; AB&#xzz;"),
            ("<", "<"),
            ("&", "&"),
            ("<b", "<b"),
            ("</b></u>x", "x"),
            ("\u{2191}<u>\u{2193}", "\u{2191}\u{2193}"),
            ("&#99999999;&#;&#x110000;", "&#99999999;&#;&#x110000;"),
        ];
        for (body, text) in both {
            assert_eq!(plain(&markup(body)), text);
        }
    }

    #[test]
    fn pieces_know_how_they_look_and_where_they_lead() {
        let body = "at <b>09:<u>00</b></u> see <a title='x' href='https://station.example/4?a=b'>the chart</a>, <b>never closed";
        let shown: Vec<String> = markup(body)
            .into_iter()
            .map(|piece| {
                format!(
                    "{}{}{}{}",
                    piece.text,
                    if piece.bold { "*" } else { "" },
                    if piece.underline { "_" } else { "" },
                    piece.link.map_or(String::new(), |link| format!(" -> {link}"))
                )
            })
            .collect();
        assert_eq!(shown, ["at ", "09:*", "00*_", " see ", "the chart -> https://station.example/4?a=b", ", ", "never closed*"]);
        let many = "<b>x</b>y".repeat(100_000);
        let pieces = markup(&many);
        assert!(pieces.len() <= MAX_RUNS + 1);
        assert_eq!(plain(&pieces).len(), 200_000, "nothing of it is lost");
    }

    #[test]
    fn no_body_is_looked_at_more_than_once() {
        // Counted in letters looked at, each of these would be a million times a million.
        for many in ["<", "<b", "</", "<x", "<a href=", "&#", "<<b"] {
            let body = many.repeat(1_000_000);
            assert_eq!(plain(&markup(&body)), body, "{many}");
            let closed = format!("{body}>");
            assert!(plain(&markup(&closed)).len() <= closed.len(), "{many}");
        }
    }
}
