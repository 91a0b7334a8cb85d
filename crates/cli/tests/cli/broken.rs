//! Broken rices, one folder per problem code, each with the report it must give.

use std::path::{Path, PathBuf};

use crate::Desk;

fn samples() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../samples/broken")
}

#[test]
fn each_broken_sample_gives_its_report() {
    let mut folders: Vec<PathBuf> =
        std::fs::read_dir(samples()).expect("samples").map(|entry| entry.expect("an entry").path()).collect();
    folders.sort();
    assert!(folders.len() >= 15, "{}", folders.len());
    let rewrite = std::env::var_os("JOVRIK_REPORTS").is_some();
    let desk = Desk::empty();
    let mut wrong = Vec::new();
    for folder in folders {
        // A sample with the facts of a machine meets that one, so that nothing of this computer matters.
        let machine = std::fs::read_dir(folder.join("machines")).ok().and_then(|mut all| all.next()?.ok());
        let machine = machine.map(|file| file.path().file_stem().expect("a name").to_string_lossy().into_owned());
        let mut arguments = vec!["check"];
        arguments.extend(machine.iter().flat_map(|name| ["--machine", name.as_str()]));
        let output = desk.command(&folder, &arguments).env("PATH", "/nowhere").output().expect("it runs");
        let told = String::from_utf8(output.stdout).expect("UTF-8");
        assert_eq!(String::from_utf8_lossy(&output.stderr), "");
        let code = folder.file_name().expect("a name").to_string_lossy().replacen('-', "/", 1);
        assert!(told.contains(&format!("{code}  ")), "{code} is not told:\n{told}");
        let expected = folder.join("report.txt");
        if rewrite {
            std::fs::write(&expected, &told).expect("written");
        }
        if std::fs::read_to_string(&expected).unwrap_or_default() != told {
            wrong.push(format!("{}:\n{told}", folder.display()));
        }
    }
    assert!(wrong.is_empty(), "JOVRIK_REPORTS=1 rewrites them after a look:\n{}", wrong.join("\n"));
}
