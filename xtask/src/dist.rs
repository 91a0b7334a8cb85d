//! `cargo xtask dist`: one archive with all that a system takes in.

use std::fs;
use std::path::Path;
use std::process::Command;

use crate::{Failure, run};

/// Makes `target/dist/jovrik-VERSION.tar.gz`: the program and its stand-ins, pages for man, completions, the session's file, licences.
pub fn make() -> Result<(), Failure> {
    run("cargo", &["build", "--release", "--package", "jovrik", "--package", "jovrik-standin"])?;
    let name = format!("jovrik-{}", env!("CARGO_PKG_VERSION"));
    let dist = Path::new("target/dist");
    let root = dist.join(&name);
    if root.exists() {
        fs::remove_dir_all(&root)?;
    }
    let built = Path::new("target/release");
    let put = |from: &Path, to: &str| -> Result<(), Failure> {
        let to = root.join(to);
        fs::create_dir_all(to.parent().unwrap_or(&root))?;
        fs::copy(from, &to).map_err(|error| format!("{}: {error}", from.display()))?;
        Ok(())
    };
    for program in ["jovrik", "jovrik-mixer", "gullmail", "sluice", "tidechart"] {
        put(&built.join(program), &format!("bin/{program}"))?;
    }
    for licence in ["LICENSE", "LICENSE-APACHE", "LICENSE-MIT", "README.md", "CHANGELOG.md"] {
        put(Path::new(licence), &format!("share/doc/jovrik/{licence}"))?;
    }
    put(Path::new("xtask/jovrik.desktop"), "share/xsessions/jovrik.desktop")?;
    let program = built.join("jovrik");
    let pages = root.join("share/man/man1");
    let told = Command::new(&program).args(["man", "--out"]).arg(fs::canonicalize(&root)?.join("share/man/man1")).output()?;
    if !told.status.success() || fs::read_dir(&pages)?.count() == 0 {
        return Err("no pages for man were made".into());
    }
    let shells = [
        ("bash", "share/bash-completion/completions/jovrik"),
        ("zsh", "share/zsh/site-functions/_jovrik"),
        ("fish", "share/fish/vendor_completions.d/jovrik.fish"),
    ];
    for (shell, file) in shells {
        let script = Command::new(&program).args(["completions", shell]).output()?;
        let path = root.join(file);
        fs::create_dir_all(path.parent().unwrap_or(&root))?;
        fs::write(path, script.stdout)?;
    }
    let archive = dist.join(format!("{name}.tar.gz"));
    let status = Command::new("tar")
        .args(["--sort=name", "--owner=0", "--group=0", "--numeric-owner", "--mtime=@0", "-czf"])
        .arg(&archive)
        .arg("-C")
        .arg(dist)
        .arg(&name)
        .status()?;
    if !status.success() {
        return Err("tar failed".into());
    }
    println!("wrote {}: tar -xzf it over /usr/local, or over ~/.local", archive.display());
    Ok(())
}
