//! Paths of keys (TOML, "Keys"): dotted, quoted where they must be.

use crate::bare;

/// Splits `bar.top.thick` and `keys.desk."Lead+."` into steps.
pub fn steps(path: &str) -> Vec<String> {
    let mut steps = vec![String::new()];
    let mut quote = false;
    for c in path.chars() {
        match c {
            '"' => quote = !quote,
            '.' if !quote => steps.push(String::new()),
            c => {
                if let Some(step) = steps.last_mut() {
                    step.push(c);
                }
            }
        }
    }
    steps
}

/// Steps as a path, quoted where they must be.
pub fn path_of<S: AsRef<str>>(steps: &[S]) -> String {
    steps.iter().map(|step| bare(step.as_ref())).collect::<Vec<_>>().join(".")
}
