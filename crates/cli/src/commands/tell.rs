//! `jovrik tell`

use jovrik_live::{request, socket_path};
use jovrik_text::shell_line;
use jovrik_values::action::Action;

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Ask the running desktop to do an action
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The action, as in a binding: go charts, layout next
    #[arg(required = true, trailing_var_arg = true, add = crate::complete::action())]
    pub action: Vec<String>,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    // One argument is an action as it is written in a rice; several are its words.
    let text = match arguments.action.as_slice() {
        [one] => one.clone(),
        many => shell_line(many),
    };
    let action = Action::parse(&text).map_err(|unknown| {
        let more = unknown.near.map_or(unknown.why, |near| format!("did you mean {near}?"));
        CommandError::Usage(format!("there is no action {text}; {more}"))
    })?;
    let socket = socket_path(&context.home.runtime, &super::live::display()?);
    let answer = request(&socket, &serde_json::json!({ "tell": action.to_string() }))?;
    if let Some(changed) = answer["changed"].as_str() {
        writeln!(context.out, "reloaded: {}", if changed.is_empty() { "nothing" } else { changed })?;
        for line in answer["held-back"].as_array().into_iter().flatten().filter_map(|line| line.as_str()) {
            writeln!(context.out, "  {line}")?;
        }
    }
    Ok(Exit::Done)
}
