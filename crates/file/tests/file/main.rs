//! Tests of what is read and what is not.

use std::os::unix::fs::symlink;
use std::path::Path;

use jovrik_file::{
    Folder, ReadError, append_private, inside, other, private_folder, read_file, read_open, resolved, write_private,
};

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
    assert_eq!(read_file(&at("file"), 11), Err(ReadError::TooLarge(11)));
    // A pipe that nobody writes into would never end.
    assert_eq!(read_file(&at("pipe"), 12), Err(ReadError::Other("a pipe")));
    assert_eq!(read_file(&at("socket"), 12), Err(ReadError::Other("a socket")));
    assert_eq!(read_file(folder.path(), 12), Err(ReadError::Other("a folder")));
    assert_eq!(read_file(Path::new("/dev/zero"), 12), Err(ReadError::Other("a device")));
    assert_eq!(read_file(&at("none"), 12), Err(ReadError::Missing));
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
    assert_eq!(resolved(&at("a")), Err(ReadError::Refused("its links lead in a circle".to_owned())));
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
    assert_eq!(inside(&rice, "art/out"), Err(ReadError::Outside(root.join("secret"))));
    assert_eq!(inside(&rice, "up/secret"), Err(ReadError::Outside(root.join("secret"))));
    for name in ["../secret", "/etc/passwd", "", "art/../../secret"] {
        assert!(matches!(inside(&rice, name), Err(ReadError::Refused(_))), "{name}");
    }
    // A rice that is reached through a link is where the link leads.
    symlink("rice", root.join("way")).expect("linked");
    assert_eq!(inside(&root.join("way"), "art/picture"), Ok(rice.join("art/picture")));
}

/// Stops whoever swaps, however a test ends.
struct Stop<'a>(&'a std::sync::atomic::AtomicBool);

impl Drop for Stop<'_> {
    fn drop(&mut self) {
        self.0.store(true, std::sync::atomic::Ordering::Relaxed);
    }
}

#[test]
fn what_is_swapped_with_a_link_while_it_is_opened_is_never_read() {
    let folder = tempfile::tempdir().expect("a folder");
    let root = std::fs::canonicalize(folder.path()).expect("there");
    let rice = root.join("rice");
    std::fs::create_dir_all(rice.join("art/real")).expect("made");
    std::fs::create_dir_all(root.join("private")).expect("made");
    std::fs::write(root.join("private/staff.txt"), "secret").expect("written");
    std::fs::write(rice.join("art/real/staff.txt"), "drawing").expect("written");
    symlink("../private", rice.join("art-link")).expect("linked");
    let done = std::sync::atomic::AtomicBool::new(false);
    let (file, link, both) = (rice.join("art/staff.txt"), rice.join("link"), rice.join("art"));
    std::fs::write(&file, "drawing").expect("written");
    symlink("../private/staff.txt", &link).expect("linked");
    let out = rice.join("out");
    symlink("../private", &out).expect("linked");
    let swap = |a: &Path, b: &Path| {
        let cwd = rustix::fs::CWD;
        rustix::fs::renameat_with(cwd, a, cwd, b, rustix::fs::RenameFlags::EXCHANGE).expect("swapped");
    };
    std::thread::scope(|scope| {
        scope.spawn(|| {
            while !done.load(std::sync::atomic::Ordering::Relaxed) {
                // The file with a link, and the folder that it lies in with another.
                swap(&file, &link);
                swap(&file, &link);
                swap(&both, &out);
                swap(&both, &out);
            }
        });
        let _stop = Stop(&done);
        let mut read = 0;
        let folder = Folder::open(&rice).expect("opened");
        for _ in 0..100_000 {
            if let Ok((file, metadata)) = folder.file("art/staff.txt", 100) {
                assert_eq!(read_open(file, &metadata, 100).as_deref(), Ok(b"drawing".as_slice()));
                read += 1;
            }
            let art = folder.folder("art".as_ref());
            if let Ok((file, metadata)) = art.and_then(|art| art.own_file("staff.txt".as_ref(), 100)) {
                assert_eq!(read_open(file, &metadata, 100).as_deref(), Ok(b"drawing".as_slice()));
                read += 1;
            }
        }
        assert!(read > 0, "nothing was read at all");
    });
}

#[test]
fn what_is_ours_is_read_by_nobody_else_and_mended_where_it_was() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().expect("a folder");
    let mode = |path: &Path| std::fs::metadata(path).expect("there").permissions().mode() & 0o7777;
    let at = folder.path().join("state/jovrik/programs");
    private_folder(&at).expect("made");
    assert_eq!((mode(&at), mode(&folder.path().join("state"))), (0o700, 0o700));
    std::fs::set_permissions(&at, std::fs::Permissions::from_mode(0o755)).expect("set");
    private_folder(&at).expect("mended");
    assert_eq!(mode(&at), 0o700);
    let file = at.join("log");
    std::fs::write(&file, "old").expect("written");
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o644)).expect("set");
    drop(append_private(&file).expect("opened"));
    assert_eq!((mode(&file), std::fs::read(&file).expect("read")), (0o600, b"old".to_vec()));
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o644)).expect("set");
    write_private(&file, b"new").expect("written");
    assert_eq!((mode(&file), std::fs::read(&file).expect("read")), (0o600, b"new".to_vec()));
    assert_eq!(std::fs::read_dir(&at).expect("there").count(), 1, "nothing is left beside it");
    // What is no file is not waited for.
    rustix::fs::mkfifoat(rustix::fs::CWD, at.join("pipe"), rustix::fs::Mode::RWXU).expect("made");
    symlink("log", at.join("link")).expect("linked");
    for other in ["pipe", "link"] {
        assert!(append_private(&at.join(other)).is_err(), "{other}");
    }
}
