//! `jovrik completions`

use clap_complete::env::Shells;

use crate::complete::VARIABLE;
use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print a shell's script that completes paths of settings, values and names
///
/// The script asks this program each time, so that it knows the rice of the folder one is in. For bash:
/// echo 'source <(jovrik completions bash)' >> ~/.bashrc
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The shell
    #[arg(value_parser = ["bash", "zsh", "fish", "elvish", "powershell"])]
    pub shell: String,
}

/// In bash a `=` parts words. For the question they are joined; what stands before the last `=` is taken off the answers.
const JOIN: &str = r#"
_jovrik() {
    local words=() at=0 i
    for (( i = 0; i < ${#COMP_WORDS[@]}; i++ )); do
        if (( i > 0 )) && [[ ${COMP_WORDS[i]} == "=" || ${COMP_WORDS[i-1]} == "=" ]]; then
            words[${#words[@]}-1]+=${COMP_WORDS[i]}
        else
            words+=("${COMP_WORDS[i]}")
        fi
        (( i == COMP_CWORD )) && at=$(( ${#words[@]} - 1 ))
    done
    local COMP_WORDS=("${words[@]}") COMP_CWORD=$at current=${words[at]}
    _clap_complete_jovrik "$1" "$current" "$3"
    if [[ $current == *=* ]]; then
        COMPREPLY=("${COMPREPLY[@]#"${current%=*}="}")
    fi
}
complete -o nospace -o bashdefault -F _jovrik jovrik
"#;

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    if let Some(shell) = Shells::builtins().completer(&arguments.shell) {
        shell.write_registration(VARIABLE, "jovrik", "jovrik", "jovrik", &mut context.out)?;
    }
    if arguments.shell == "bash" {
        write!(context.out, "{JOIN}")?;
    }
    Ok(Exit::Done)
}
