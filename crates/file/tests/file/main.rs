//! Tests of what is read and what is not.

use std::os::unix::fs::symlink;
use std::path::Path;

use jovrik_file::{Unread, inside, other, read_file, resolved};

#[test]
fn only_regular_files_are_opened_and_none_past_its_limit() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    std::fs::write(at("file"), "twelve bytes").expect("written");
    symlink("file", at("link")).expect("linked");
    rustix::fs::mkfifoat(rustix::fs::CWD, at("pipe"), rustix::fs::Mode::RUSR).expect("made");
    let _socket = std::os::unix::net::UnixListener::bind(at("socket")).expect("bound");
    assert_eq!(read_file(&at("file"), 12).as_deref(), Ok(b"twelve bytes".as_slice()));
    assert_eq!(read_file(&at("link"), 12).as_deref(), Ok(b"twelve bytes".as_slice()));
    assert_eq!(read_file(&at("file"), 11), Err(Unread::TooLarge(11)));
    // A pipe that nobody writes into would never end.
    assert_eq!(read_file(&at("pipe"), 12), Err(Unread::Other("a pipe")));
    assert_eq!(read_file(&at("socket"), 12), Err(Unread::Other("a socket")));
    assert_eq!(read_file(folder.path(), 12), Err(Unread::Other("a folder")));
    assert_eq!(read_file(Path::new("/dev/zero"), 12), Err(Unread::Other("a device")));
    assert_eq!(read_file(&at("none"), 12), Err(Unread::Missing));
    assert_eq!((other(&at("pipe")), other(&at("link")), other(&at("none"))), (Some("a pipe"), None, None));
}

#[test]
fn links_on_the_way_are_followed_also_to_what_is_not_there() {
    let folder = tempfile::tempdir().expect("a folder");
    let root = std::fs::canonicalize(folder.path()).expect("there");
    let at = |name: &str| root.join(name);
    std::fs::create_dir(at("real")).expect("made");
    symlink("real", at("folder")).expect("linked");
    symlink("../real/later", at("real/dangling")).expect("linked");
    assert_eq!(resolved(&at("folder/dangling")), Ok(at("real/later")));
    assert_eq!(resolved(&at("folder/none/deep")), Ok(at("real/none/deep")));
    symlink("b", at("a")).expect("linked");
    symlink("a", at("b")).expect("linked");
    assert_eq!(resolved(&at("a")), Err(Unread::Refused("its links lead in a circle".to_owned())));
}

#[test]
fn what_is_inside_a_folder_stays_inside_also_through_links() {
    let folder = tempfile::tempdir().expect("a folder");
    let root = std::fs::canonicalize(folder.path()).expect("there");
    let rice = root.join("rice");
    std::fs::create_dir_all(rice.join("art")).expect("made");
    std::fs::write(root.join("secret"), "").expect("written");
    symlink("../../secret", rice.join("art/out")).expect("linked");
    symlink(&root, rice.join("up")).expect("linked");
    symlink("art", rice.join("in")).expect("linked");
    assert_eq!(inside(&rice, "in/picture"), Ok(rice.join("art/picture")));
    assert_eq!(inside(&rice, "art/out"), Err(Unread::Outside(root.join("secret"))));
    assert_eq!(inside(&rice, "up/secret"), Err(Unread::Outside(root.join("secret"))));
    for name in ["../secret", "/etc/passwd", "", "art/../../secret"] {
        assert!(matches!(inside(&rice, name), Err(Unread::Refused(_))), "{name}");
    }
    // A rice that is reached through a link is where the link leads.
    symlink("rice", root.join("way")).expect("linked");
    assert_eq!(inside(&root.join("way"), "art/picture"), Ok(rice.join("art/picture")));
}
