use std::path::{Path, PathBuf};

use jovrik_core::check::{HostInfo, UnknownHost};
use jovrik_home::{
    Error, LocalHost, TransactionManager, UserDirs, check_folder, machine_for, new_rice, read_folder, rice_folder, sample_files,
};

fn home_of(pairs: &[(&str, &str)]) -> UserDirs {
    let pairs: Vec<(String, String)> = pairs.iter().map(|(name, value)| ((*name).to_owned(), (*value).to_owned())).collect();
    UserDirs::of(&move |name| pairs.iter().find(|(other, _)| other == name).map(|(_, value)| value.into())).expect("a home")
}

#[test]
fn a_home_that_is_not_said_is_that_of_the_user_database_and_a_relative_one_is_refused() {
    let of_database = home_of(&[("HOME", "")]);
    assert!(of_database.home.is_absolute() && of_database.home.is_dir(), "{}", of_database.home.display());
    assert_eq!(home_of(&[]), of_database);
    match UserDirs::of(&|name| (name == "HOME").then(|| "some/where".into())) {
        Err(Error::Home(said)) => assert_eq!(said, "HOME is some/where, which is no absolute path"),
        other => panic!("{other:?}"),
    }
    let folder = tempfile::tempdir().expect("a folder");
    let gone = folder.path().join("gone");
    let home = home_of(&[("HOME", gone.to_str().expect("UTF-8"))]);
    assert!(matches!(TransactionManager::open(&home), Err(Error::Home(_))), "a home that is not there is not made");
    assert!(!gone.exists());
}

#[test]
fn folders_follow_the_base_directory_specification() {
    let plain = home_of(&[("HOME", "/srv/mira")]);
    assert_eq!(plain.rice(), Path::new("/srv/mira/.config/jovrik/rice"));
    assert_eq!(plain.history(), Path::new("/srv/mira/.local/state/jovrik/history.sqlite"));
    let own =
        home_of(&[("HOME", "/srv/mira"), ("XDG_CONFIG_HOME", "/c"), ("XDG_STATE_HOME", "relative"), ("XDG_RUNTIME_DIR", "/r")]);
    assert_eq!((own.config.as_path(), own.runtime.as_path()), (Path::new("/c"), Path::new("/r")));
    assert_eq!(own.state, Path::new("/srv/mira/.local/state"), "a relative path counts as unset");
}

#[test]
fn tilde_is_everybodys_own_home_and_nothing_leads_upwards() {
    let home = home_of(&[("HOME", "/srv/mira")]);
    assert_eq!(home.long("~/.x"), Some(PathBuf::from("/srv/mira/.x")));
    assert_eq!(home.long("/etc/x"), Some(PathBuf::from("/etc/x")));
    assert_eq!((home.long("x"), home.long("~/../x"), home.long("/a/../b"), home.long("")), (None, None, None, None));
    assert_eq!(home.short(Path::new("/srv/mira/a/b")), "~/a/b");
    assert_eq!(home.short(Path::new("/srv/mirabelle")), "/srv/mirabelle");
}

#[test]
fn the_active_rice_is_the_asked_the_nearest_or_the_applied_one() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    for name in ["near/deep/er", "asked", "home/.config/jovrik/rice", "empty"] {
        std::fs::create_dir_all(at(name)).expect("made");
    }
    for name in ["near", "asked", "home/.config/jovrik/rice"] {
        std::fs::write(at(name).join("rice.toml"), "").expect("written");
    }
    let home = home_of(&[("HOME", at("home").to_str().expect("UTF-8"))]);
    let find = |asked: Option<&str>, here: &str| rice_folder(asked.map(at).as_deref(), &at(here), &home);
    assert_eq!(find(Some("asked"), "near").expect("found"), at("asked"));
    assert_eq!(find(None, "near/deep/er").expect("found"), at("near"));
    assert_eq!(find(None, "empty").expect("found"), at("home/.config/jovrik/rice"));
    assert!(matches!(find(Some("empty"), "near"), Err(Error::NotARice(_))));
    assert!(matches!(find(Some("gone"), "near"), Err(Error::File { .. })));
    std::fs::remove_file(at("home/.config/jovrik/rice/rice.toml")).expect("removed");
    assert!(matches!(find(None, "empty"), Err(Error::NoRice(_))));
}

#[test]
fn parts_are_read_in_name_order_and_what_is_no_part_is_left() {
    let folder = tempfile::tempdir().expect("a folder");
    std::fs::create_dir(folder.path().join("parts")).expect("made");
    for name in ["rice.toml", "parts/b.toml", "parts/a.toml", "parts/.hidden.toml", "parts/notes.md", "parts/a.toml~"] {
        std::fs::write(folder.path().join(name), "").expect("written");
    }
    let files = read_folder(folder.path());
    let names: Vec<&str> = files.parts.iter().map(|part| part.name.as_str()).collect();
    assert_eq!(names, ["parts/a.toml", "parts/b.toml"]);
    assert!(files.manifest.is_some() && files.problems.is_empty());
}

#[test]
fn programs_are_those_on_the_path_or_of_the_machine_in_question() {
    let folder = tempfile::tempdir().expect("a folder");
    let program = folder.path().join("sluice");
    std::fs::write(&program, "").expect("written");
    let here = || LocalHost::new(Some(folder.path().into()), &home_of(&[("HOME", folder.path().to_str().expect("UTF-8"))]));
    assert_eq!(here().has_program("sluice"), Some(false), "not executable");
    use std::os::unix::fs::PermissionsExt;
    std::fs::set_permissions(&program, std::fs::Permissions::from_mode(0o755)).expect("set");
    let now = here();
    assert_eq!(
        (now.has_program("sluice"), now.has_program("~/sluice"), now.has_program("tidechart")),
        (Some(true), Some(true), Some(false))
    );
    assert_eq!(now.has_program(program.to_str().expect("UTF-8")), Some(true));
    let rice = folder.path().join("rice");
    new_rice(&rice, sample_files("saltmarsh").expect("a sample")).expect("written");
    let (machine, _, problems) = machine_for(Some(Path::new("skiff")), &rice, "x").expect("found");
    assert!(problems.is_empty());
    let laptop = here().meeting(machine);
    assert_eq!((laptop.has_program("tidechart"), laptop.has_program("marshmap")), (Some(true), Some(false)));
    let by_host = |host: &str| machine_for(None, &rice, host).expect("read").0.expect("one").host;
    assert_eq!((by_host("skiff"), by_host("elsewhere")), ("skiff".to_owned(), "breakwater".to_owned()));
    assert!(matches!(machine_for(Some(Path::new("dinghy")), &rice, "x"), Err(Error::File { .. })));
    assert!(check_folder(&rice, &[], &UnknownHost).usable());
}
