//! `jovrik help`

use jovrik_core::rice::{Block, TOPICS, Topic};
use jovrik_text::problem::nearest;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{self, Meaning, advise, columns, wrap};

/// Pages of grammar: chords, actions, text patterns and the like; or what a command's --help says
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A page, or a command
    #[arg(add = crate::complete::topic())]
    pub topic: Vec<String>,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let name = arguments.topic.join(" ");
    if name.is_empty() {
        return list(context);
    }
    if let Some(topic) = Topic::named(&name).or_else(|| Topic::named(&arguments.topic.join("-"))) {
        return page(topic, context);
    }
    let mut command = crate::run::command();
    command.build();
    let mut inner = Some(&mut command);
    for word in &arguments.topic {
        inner = inner.and_then(|command| command.find_subcommand_mut(word));
    }
    if let Some(command) = inner {
        write!(context.out, "{}", command.render_long_help())?;
        return Ok(Exit::Done);
    }
    let command = crate::run::command();
    let commands = command.get_subcommands().filter(|command| !command.is_hide_set()).map(clap::Command::get_name);
    let names: Vec<&str> = TOPICS.iter().map(|topic| topic.name).chain(commands).collect();
    let near = nearest(&name, names.iter().copied());
    let near = near.map(|near| format!("; did you mean {near}?")).unwrap_or_default();
    Err(CommandError::Usage(format!(
        "there is no page {name}{near}\n  jovrik help lists all of them; jovrik settings {name} looks among the settings"
    )))
}

fn list(context: &mut Context) -> Result<Exit, CommandError> {
    let out = &mut context.out;
    writeln!(out, "{}", Meaning::Heading.paint("What is written inside values, a page each"))?;
    let rows: Vec<Vec<String>> = TOPICS.iter().map(|topic| vec![topic.name.to_owned(), topic.about.to_owned()]).collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out)?;
    let next = [
        ("jovrik help chords", "shows one"),
        ("jovrik --help", "lists the commands"),
        ("jovrik settings WORDS", "finds a setting"),
    ];
    advise(out, "", &next.map(|(write, gloss)| (write.to_owned(), gloss)))?;
    Ok(Exit::Done)
}

fn page(topic: &Topic, context: &mut Context) -> Result<Exit, CommandError> {
    let width = context.width;
    let out = &mut context.out;
    for (at, line) in wrap(&format!("{}  {}", topic.name, topic.about), width).iter().enumerate() {
        let painted = line
            .strip_prefix(topic.name)
            .filter(|_| at == 0)
            .map(|rest| format!("{}{}", Meaning::Heading.paint(topic.name), Meaning::Second.paint(rest)));
        writeln!(out, "{}", painted.unwrap_or_else(|| Meaning::Second.paint(line)))?;
    }
    for block in topic.page() {
        writeln!(out)?;
        match block {
            Block::Text(text) => {
                for line in wrap(text, width.saturating_sub(2)) {
                    writeln!(out, "  {line}")?;
                }
            }
            Block::Code(code) => {
                for line in code.lines() {
                    writeln!(out, "    {}", Meaning::Type.paint(line))?;
                }
            }
            Block::Table(rows) => {
                // What is written in more than half of the line has a line of its own.
                let is_long = |row: &[String; 2]| report::width(&row[0]) + 4 > width / 2;
                if rows.iter().any(is_long) {
                    for [written, means] in &rows {
                        wrap(written, width.saturating_sub(2)).iter().try_for_each(|line| writeln!(out, "  {line}"))?;
                        let means = wrap(means, width.saturating_sub(6));
                        means.iter().try_for_each(|line| writeln!(out, "      {}", Meaning::Second.paint(line)))?;
                    }
                    continue;
                }
                let rows: Vec<Vec<String>> = rows.into_iter().map(Vec::from).collect();
                for line in columns(&rows, "  ", width) {
                    writeln!(out, "{line}")?;
                }
            }
        }
    }
    Ok(Exit::Done)
}
