//! A proof that a service answers: it is started, asked over HTTP, and ended.

use std::io::{Read, Write};
use std::net::{TcpStream, ToSocketAddrs};
use std::process::Command;
use std::time::Duration;
use tinmold_platform::process::{Ended, Outcome, Running, not_started};

/// Timeout of a request.
const QUESTION: Duration = Duration::from_secs(2);

/// Returns the host and port of an `http` address.
fn place(address: &str) -> Option<String> {
    let rest = address.strip_prefix("http://")?;
    let host = rest.split(['/', '?', '#']).next().filter(|host| !host.is_empty())?;
    Some(if host.rsplit(']').next().is_some_and(|end| end.contains(':')) {
        host.to_owned()
    } else {
        format!("{host}:80")
    })
}

/// Returns true if a program listens there already.
fn is_taken(place: &str) -> bool {
    let addresses = place.to_socket_addrs().into_iter().flatten();
    addresses.into_iter().any(|address| TcpStream::connect_timeout(&address, QUESTION).is_ok())
}

/// Starts the program and asks `address` until it answers; then all that was started is ended.
pub(super) fn prove(
    command: &mut Command,
    address: &str,
    limit: Duration,
    is_cancelled: &dyn Fn() -> bool,
    each: &mut dyn FnMut(&[u8]),
) -> Outcome {
    let failed = |why: String| Outcome { ended: Ended::NoAnswer(why), took: Duration::ZERO };
    let Some(place) = place(address) else {
        return failed(format!("{address} cannot be requested: it does not begin with http://"));
    };
    if is_taken(&place) {
        let port = place.rsplit(':').next().unwrap_or("");
        let who = listener(port).map_or_else(String::new, |who| format!(" by {who}"));
        return failed(format!("port {port} is in use{who}: end that, or answer with another port"));
    }
    let mut running = match Running::start(command) {
        Ok(running) => running,
        Err(error) => return Outcome { ended: not_started(command, &error), took: Duration::ZERO },
    };
    let ended = loop {
        if let Some(ended) = running.poll(each) {
            break Ended::NoAnswer(format!("it ended before {address} answered: {ended}"));
        }
        if is_cancelled() {
            break Ended::Cancelled;
        }
        if running.took() > limit {
            break Ended::NoAnswer(format!("{address} did not answer in time"));
        }
        match status_of(address, &place) {
            Some(status @ 200..400) => {
                each(format!("{address} answered {status}\n").as_bytes());
                break Ended::Exit(0);
            }
            Some(status) => break Ended::NoAnswer(format!("{address} answered {status}")),
            // The service is not ready yet.
            None => {}
        }
    };
    running.end(each);
    Outcome { ended, took: running.took() }
}

/// Sends a GET request (RFC 9112) and reads the status code; `None` if nothing answers in time.
fn status_of(address: &str, place: &str) -> Option<u16> {
    let target =
        address.strip_prefix("http://")?.find('/').map_or("/", |at| &address["http://".len() + at..]);
    let target = target.split('#').next().unwrap_or("/");
    let mut stream = place
        .to_socket_addrs()
        .ok()?
        .find_map(|address| TcpStream::connect_timeout(&address, QUESTION).ok())?;
    stream.set_read_timeout(Some(QUESTION)).ok()?;
    stream.set_write_timeout(Some(QUESTION)).ok()?;
    write!(stream, "GET {target} HTTP/1.1\r\nHost: {place}\r\nAccept: */*\r\nConnection: close\r\n\r\n")
        .ok()?;
    let mut head = [0; 12];
    stream.read_exact(&mut head).ok()?;
    // `HTTP/1.1 200`
    std::str::from_utf8(&head).ok()?.strip_prefix("HTTP/1.")?.get(2..)?.parse().ok()
}

/// Returns the program that listens at a port, with the number of its process.
#[cfg(target_os = "linux")]
fn listener(port: &str) -> Option<String> {
    let port: u16 = port.parse().ok()?;
    let tables =
        ["/proc/net/tcp", "/proc/net/tcp6"].map(|table| std::fs::read_to_string(table).unwrap_or_default());
    // Columns of proc(5): the local address is the second, the state (0A: listening) the fourth,
    // the inode the tenth.
    let inode = tables.iter().flat_map(|table| table.lines().skip(1)).find_map(|line| {
        let columns: Vec<&str> = line.split_whitespace().collect();
        let listens = columns.get(3) == Some(&"0A") && columns.get(1)?.ends_with(&format!(":{port:04X}"));
        listens.then(|| columns.get(9).map(|inode| format!("socket:[{inode}]")))?
    })?;
    let processes = std::fs::read_dir("/proc").ok()?.flatten();
    processes.into_iter().find_map(|process| {
        let number: u32 = process.file_name().to_str()?.parse().ok()?;
        let mut open = std::fs::read_dir(process.path().join("fd")).ok()?.flatten();
        open.any(|file| {
            std::fs::read_link(file.path()).is_ok_and(|target| target.as_os_str() == inode.as_str())
        })
        .then(|| std::fs::read_to_string(process.path().join("comm")).unwrap_or_default())
        .map(|name| format!("{} (process {number})", name.trim()))
    })
}

#[cfg(not(target_os = "linux"))]
fn listener(_: &str) -> Option<String> {
    None
}
