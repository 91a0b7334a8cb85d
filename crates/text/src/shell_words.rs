//! Words as a shell has them, without any expansion.

/// Splits words as a shell would, without any expansion.
pub fn shell_words(text: &str) -> Option<Vec<String>> {
    let mut words = Vec::new();
    let mut word: Option<String> = None;
    let mut quote: Option<char> = None;
    let mut chars = text.chars();
    while let Some(c) = chars.next() {
        match (quote, c) {
            (Some(open), c) if c == open => quote = None,
            (Some('"') | None, '\\') => word.get_or_insert_default().push(chars.next()?),
            (Some(_), c) => word.get_or_insert_default().push(c),
            (None, '"' | '\'') => {
                quote = Some(c);
                word.get_or_insert_default();
            }
            (None, c) if c.is_whitespace() => words.extend(word.take()),
            (None, c) => word.get_or_insert_default().push(c),
        }
    }
    words.extend(word);
    quote.is_none().then_some(words)
}

/// Words as one line that [`shell_words`] splits into the same words.
pub fn shell_line<S: AsRef<str>>(words: &[S]) -> String {
    let plain = |c: char| c.is_alphanumeric() || "-_./:=@%+,".contains(c);
    let one = |word: &S| {
        let word = word.as_ref();
        if !word.is_empty() && word.chars().all(plain) { word.to_owned() } else { format!("'{}'", word.replace('\'', "'\\''")) }
    };
    words.iter().map(one).collect::<Vec<_>>().join(" ")
}
