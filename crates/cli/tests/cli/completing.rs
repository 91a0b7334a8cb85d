//! What shells are offered, asked as their scripts ask.

use std::process::Command;

use crate::Desk;

/// What bash would offer for a line, parted into words as bash does it.
fn offered(desk: &Desk, words: &[&str]) -> Vec<String> {
    let quoted: Vec<String> = words.iter().map(|word| format!("'{}'", word.replace('\'', r"'\''"))).collect();
    // Where a `=` was just typed, bash says that nothing is being completed.
    let current = quoted.last().filter(|word| *word != "'='").cloned().unwrap_or_default();
    let script = format!(
        "source <(jovrik completions bash) && COMP_WORDS=({}) COMP_CWORD={} COMP_TYPE=9 && _jovrik jovrik {current} x 2>/dev/null; printf '%s\\n' \"${{COMPREPLY[@]}}\"",
        quoted.join(" "),
        words.len() - 1
    );
    let text = in_shell(desk, &["bash", "--norc", "-c", &script]);
    text.lines().filter(|line| !line.is_empty()).map(str::to_owned).collect()
}

/// What a shell prints that knows this program.
fn in_shell(desk: &Desk, shell: &[&str]) -> String {
    let bin = std::path::Path::new(env!("CARGO_BIN_EXE_jovrik")).parent().expect("a folder");
    let path = format!("{}:{}", bin.display(), std::env::var("PATH").expect("a PATH"));
    let plain = desk.command(&desk.rice(), &[]);
    let mut command = Command::new(shell[0]);
    command.args(&shell[1..]).env_clear().current_dir(desk.rice());
    command.envs(plain.get_envs().filter_map(|(name, value)| Some((name, value?)))).env("PATH", path);
    let output = command.output().expect(shell[0]);
    assert_eq!(String::from_utf8_lossy(&output.stderr), "");
    String::from_utf8(output.stdout).expect("UTF-8")
}

#[track_caller]
fn offers(desk: &Desk, words: &[&str], expected: &[&str]) {
    let all = offered(desk, words);
    let plain: Vec<&str> = all.iter().map(String::as_str).filter(|word| !word.starts_with("--")).collect();
    assert_eq!(plain, expected, "{words:?}");
}

#[test]
fn paths_values_and_names_are_offered_from_the_catalogue_and_the_rice() {
    let desk = Desk::sample();
    offers(&desk, &["jovrik", "tog"], &["toggle"]);
    offers(&desk, &["jovrik", "set", "bar.top.th"], &["bar.top.thick"]);
    offers(&desk, &["jovrik", "set", "bar.top.edge", ""], &["left", "right", "top", "bottom"]);
    offers(&desk, &["jovrik", "set", "palette.use", ""], &["ebb", "noon"]);
    offers(&desk, &["jovrik", "set", "frame.idle", "@a"], &["@accent", "@alert"]);
    offers(&desk, &["jovrik", "set", "start.terminal.workspace", "l"], &["logs"]);
    offers(&desk, &["jovrik", "set", "workspaces.layouts+", "=", "m"], &["main"]);
    offers(&desk, &["jovrik", "set", "bar.top.end+", "=", "t"], &["tucked", "title"]);
    offers(&desk, &["jovrik", "set", "bar.top.end-", "=", "c"], &["cpu", "clock"]);
    offers(&desk, &["jovrik", "toggle", "bar.top.end", "t"], &["tucked", "title", "tide"]);
    let all = offered(&desk, &["jovrik", "toggle", "bar.t"]);
    assert!(["bar.top", "bar.top.end", "bar.top.edge"].iter().all(|path| all.iter().any(|own| own == path)), "{all:?}");
    offers(&desk, &["jovrik", "look", "--with", "palette.use", "=", "n"], &["noon"]);
    offers(&desk, &["jovrik", "set", "palette.use", "=", "n"], &["noon"]);
    offers(&desk, &["jovrik", "set", "space.edge", "=", "3", "bar.top.ed"], &["bar.top.edge="]);
    offers(&desk, &["jovrik", "set", "space.edge", "=", "3", "bar.top.edge", "=", "r"], &["right"]);
    offers(
        &desk,
        &["jovrik", "set", "space.edge", "=", "3", "frame.idle", "=", "@line", "palette.use", "=", ""],
        &["ebb", "noon"],
    );
    offers(&desk, &["jovrik", "check", "--machine", ""], &["breakwater", "skiff"]);
    offers(&desk, &["jovrik", "set", "--overlay", ""], &["laptop"]);
    offers(&desk, &["jovrik", "settings", "--part", "pa"], &["palette"]);
    offers(&desk, &["jovrik", "why", "program.m"], &["program.map"]);
}

#[test]
fn what_was_begun_in_quotes_goes_on_in_them() {
    let desk = Desk::sample();
    // bash leaves what stands before the open quote, and closes it.
    offers(&desk, &["jovrik", "show", r#"keys.desk."Lead+sl"#], &["Lead+slash"]);
    offers(&desk, &["jovrik", "show", r#"'keys.desk."Lead+sl"#], &[r#"keys.desk."Lead+slash""#]);
    offers(&desk, &["jovrik", "show", r#""keys.desk.Lead+sl"#], &["keys.desk.Lead+slash"]);
    // Outside of quotes what the shell would take apart is quoted.
    offers(&desk, &["jovrik", "show", r"keys.desk.Lead+g\ c"], &[r"keys.desk.Lead+g\ c"]);
    let whole = desk.run(&["show", "keys.desk.Lead+g c"]).clean();
    assert!(whole.contains("go charts"), "{whole}");
}

#[test]
fn zsh_and_fish_offer_the_same() {
    let desk = Desk::sample();
    let lines = [
        (r#"jovrik show keys.desk."Lead+sl"#, "keys.desk.Lead+slash"),
        ("jovrik show keys.desk.Lead+sl", "keys.desk.Lead+slash"),
        ("jovrik set palette.use=n", "palette.use=noon"),
        ("jovrik set space.edge=3 bar.top.edge=r", "bar.top.edge=right"),
        ("jovrik set space.edge=3 bar.top.ed", "bar.top.edge="),
        ("jovrik rename module tid", "tide"),
    ];
    for (line, expected) in lines {
        let script = "jovrik completions fish | source; complete -C $argv[1]";
        let text = in_shell(&desk, &["fish", "--no-config", "-c", script, line]);
        // fish offers what was typed with the quotes that were typed.
        let all: Vec<String> = text.lines().map(|line| line.split('\t').next().unwrap_or_default().replace('"', "")).collect();
        assert_eq!(all, [expected], "fish: {line}");
        // What zsh is told: each list by its name, with what follows an answer.
        let script = "compdef() { }; _describe() { print -r -- \"${@:4}\"; print -rl -- \"${(@P)3}\" }
            source <(jovrik completions zsh); words=(\"${(@s: :)1}\"); CURRENT=$#words; _jovrik";
        let text = in_shell(&desk, &["zsh", "-f", "-c", script, "zsh", line]);
        let follows = if expected.ends_with('=') { "-S " } else { "" };
        let all: Vec<&str> = text.lines().collect();
        assert_eq!(all[0].trim(), follows.trim(), "zsh: {line}: {text}");
        assert_eq!(all[1].split(':').next(), Some(expected), "zsh: {line}: {text}");
        assert_eq!(all.len(), 2, "zsh: {line}: {text}");
    }
}

#[test]
fn actions_are_offered_word_by_word() {
    let desk = Desk::sample();
    offers(&desk, &["jovrik", "tell", "la"], &["layout", "launcher"]);
    offers(&desk, &["jovrik", "tell", "go", ""], &["charts", "logs", "field", "post", "music", "next", "prev", "back"]);
    offers(&desk, &["jovrik", "tell", "open", ""], &["terminal", "slip", "charts", "logs", "letters", "map"]);
    offers(&desk, &["jovrik", "tell", "bar", "toggle", ""], &["top"]);
    offers(&desk, &["jovrik", "tell", "layout", "m"], &["mast", "main"]);
}

#[test]
fn outside_of_a_rice_and_in_a_broken_one_what_is_known_is_offered() {
    let desk = Desk::empty();
    offers(&desk, &["jovrik", "set", "space.e"], &["space.edge"]);
    offers(&desk, &["jovrik", "tell", "go", ""], &[]);
    let broken = Desk::of("[bar.top]\nthick = \n[module.clock]\nsource = \"time\"\n");
    offers(&broken, &["jovrik", "set", "bar.top.ed"], &["bar.top.edge"]);
}

#[test]
fn every_shell_gets_a_script_and_an_unknown_one_the_list() {
    let desk = Desk::empty();
    for shell in ["bash", "zsh", "fish", "elvish", "powershell"] {
        let script = desk.run(&["completions", shell]).clean();
        assert!(script.contains("JOVRIK_COMPLETE") && script.contains("jovrik"), "{shell}: {script}");
        assert!(!script.contains("/target/"), "{shell} names no path of this machine");
    }
    let told = desk.run(&["completions", "shellfish"]).failed(2);
    assert!(told.contains("bash, zsh, fish, elvish, powershell"), "{told}");
}

#[test]
fn names_of_the_rice_are_offered_to_the_options_that_take_them() {
    let desk = Desk::sample();
    offers(&desk, &["jovrik", "look", "module.ti"], &["module.title", "module.tide"]);
    offers(&desk, &["jovrik", "look", "--beside", "s"], &["skiff"]);
    offers(&desk, &["jovrik", "look", "--list", "ch"], &["chords", "characters"]);
    offers(&desk, &["jovrik", "keys", "list", "--scope", "ed"], &["editor"]);
    offers(&desk, &["jovrik", "keys", "list", "--mode", "si"], &["sizing"]);
    offers(&desk, &["jovrik", "publish", "--allow", "share/p"], &["share/place"]);
    offers(&desk, &["jovrik", "apply", "--take", ""], &["~/.Xdefaults"]);
    offers(&desk, &["jovrik", "help", "text"], &["text-patterns"]);
    // As the file spells it.
    offers(&desk, &["jovrik", "show", "keys.desk.Lead+sl"], &["keys.desk.Lead+slash"]);
    offers(&desk, &["jovrik", "rename", "module", "ti"], &["title", "tide"]);
    offers(&desk, &["jovrik", "rename", "workspace", "l"], &["logs"]);
    offers(&desk, &["jovrik", "rename", "palette", ""], &["ebb", "noon"]);
    let layouts = offered(&desk, &["jovrik", "set", "keyboard.layouts", "f"]);
    assert!(layouts.iter().any(|layout| layout == "fr"), "{layouts:?}");
    offers(&desk, &["jovrik", "keys", "trace", "--action", r#""go c"#], &["go charts"]);
}
