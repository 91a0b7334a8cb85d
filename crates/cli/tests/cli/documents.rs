//! What documents and pictures say is true.

use std::path::Path;

use crate::Desk;

fn document(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(name)).expect(name)
}

#[test]
fn every_command_line_of_the_readme_is_understood() {
    let readme = document("README.md");
    let desk = Desk::sample();
    let lines: Vec<&str> = readme.lines().filter_map(|line| line.strip_prefix("jovrik ")).collect();
    assert!(lines.len() >= 10, "{}", lines.len());
    for line in lines {
        let words = jovrik_core::desk::shell_words(line.split("  ").next().unwrap_or(line)).expect("closed quotes");
        let mut arguments: Vec<&str> = words.iter().map(String::as_str).collect();
        // What follows `tell` is the action.
        let at = if arguments[0] == "tell" { 1 } else { arguments.len() };
        arguments.insert(at, "--help");
        desk.run(&arguments).clean();
    }
}

#[test]
fn every_picture_of_the_readme_is_there_and_every_picture_is_shown() {
    let readme = document("README.md");
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    let mut count = 0;
    for entry in std::fs::read_dir(folder).expect("pictures") {
        let name = entry.expect("an entry").file_name().to_string_lossy().into_owned();
        assert!(readme.contains(&format!("docs/screenshots/{name}")), "{name} is not in the README");
        count += 1;
    }
    assert!((5..20).contains(&count), "{count}");
    assert_eq!(readme.matches("docs/screenshots/").count(), count);
}

#[test]
fn the_documents_name_files_that_exist() {
    for name in ["README.md", "CONTRIBUTING.md", "docs/architecture.md"] {
        let text = document(name);
        for piece in
            text.split('`').skip(1).step_by(2).filter(|piece| piece.starts_with("crates/") && !piece.contains(['*', ' ', 'N']))
        {
            assert!(Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(piece).exists(), "{name} names {piece}");
        }
    }
}
