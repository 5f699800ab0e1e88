//! A directory to run the built program in, and a terminal to drive it.
#![allow(dead_code, clippy::unwrap_used, clippy::panic)]

pub mod recasts;

use portable_pty::{Child, CommandBuilder, PtySize, native_pty_system};
use std::fs;
use std::io::{self, Read, Write};
use std::net::TcpStream;
use std::num::NonZero;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::{Arc, Mutex};
use std::thread;
use std::time::{Duration, Instant};
use tempfile::TempDir;

/// A question that names the project.
pub const NAMED: &str =
    "[[question]]\nkey = \"name\"\nask = \"Name\"\nkind = \"text\"\nform = \"kebab\"\ndefault = \"tides\"\n";

/// Asks to write, on the setup screen.
pub const WRITE: &str = "\x13";
pub const UP: &str = "\x1b[A";
pub const DOWN: &str = "\x1b[B";

/// A temporary folder in which the program runs with nothing of the machine's own settings.
pub struct Place {
    folder: TempDir,
}

pub struct Ran {
    pub code: i32,
    pub out: String,
    pub err: String,
}

impl Place {
    pub fn new() -> Self {
        Self { folder: tempfile::tempdir().unwrap() }
    }

    /// Makes a place on a file system in memory, if there is one.
    pub fn in_memory() -> Self {
        let folder = tempfile::tempdir_in("/dev/shm").or_else(|_| tempfile::tempdir());
        Self { folder: folder.unwrap() }
    }

    pub fn path(&self, inside: &str) -> PathBuf {
        self.folder.path().join(inside)
    }

    pub fn read(&self, inside: &str) -> String {
        fs::read_to_string(self.path(inside)).unwrap_or_else(|error| panic!("{inside}: {error}"))
    }

    pub fn write(&self, inside: &str, text: impl AsRef<[u8]>) -> &Self {
        let path = self.path(inside);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
        self
    }

    /// A mold in the folder `m`: the rest of its manifest after `[mold]`, and its files.
    pub fn mold(&self, manifest: &str, files: &[(&str, &str)]) -> &Self {
        let head = "[mold]\nname = \"m\"\nversion = \"1.0.0\"\nsummary = \"A mold of the tests\"\nfolder = \"out\"\n";
        self.write("m/mold.toml", format!("{head}{manifest}"));
        for (path, text) in files {
            self.write(&format!("m/{path}"), text);
        }
        self
    }

    /// Every path below the folder, sorted; folders end with a slash.
    pub fn listing(&self, inside: &str) -> Vec<String> {
        fn list(folder: &Path, root: &Path, all: &mut Vec<String>) {
            for entry in fs::read_dir(folder).into_iter().flatten() {
                let path = entry.unwrap().path();
                let name = path.strip_prefix(root).unwrap().to_string_lossy().into_owned();
                if path.is_dir() && !path.is_symlink() {
                    all.push(name + "/");
                    list(&path, root, all);
                } else {
                    all.push(name);
                }
            }
        }
        let mut all = Vec::new();
        let root = self.path(inside);
        list(&root, &root, &mut all);
        all.sort();
        all
    }

    pub fn command(&self) -> Command {
        self.command_of(Path::new(env!("CARGO_BIN_EXE_tinmold")))
    }

    /// A program in the folder, without the settings of the machine and of the user.
    pub fn command_of(&self, program: &Path) -> Command {
        let mut command = Command::new(program);
        command.current_dir(self.folder.path());
        for variable in ["CI", "NO_COLOR", "TINMOLD_LOG"] {
            command.env_remove(variable);
        }
        command.envs(self.environment());
        command
    }

    fn environment(&self) -> Vec<(&'static str, String)> {
        let home = self.folder.path().join(".home");
        let inside = |name: &str| home.join(name).display().to_string();
        vec![
            ("HOME", home.display().to_string()),
            ("XDG_CONFIG_HOME", inside("config")),
            ("XDG_CACHE_HOME", inside("cache")),
            ("XDG_DATA_HOME", inside("data")),
            ("XDG_STATE_HOME", inside("state")),
            ("GIT_CONFIG_GLOBAL", inside("gitconfig")),
            ("GIT_CONFIG_NOSYSTEM", "1".into()),
            ("SOURCE_DATE_EPOCH", "1795420800".into()),
        ]
    }

    pub fn run(&self, args: &[&str]) -> Ran {
        self.finish(self.command().args(args))
    }

    /// Runs with a text on standard input.
    pub fn run_with(&self, args: &[&str], input: &str) -> Ran {
        let mut command = self.command();
        command.args(args).stdin(std::process::Stdio::piped());
        command.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::piped());
        let mut child = command.spawn().unwrap();
        // The program may end before it has read everything.
        let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
        Ran::from(child.wait_with_output().unwrap())
    }

    pub fn finish(&self, command: &mut Command) -> Ran {
        Ran::from(command.stdin(std::process::Stdio::null()).output().unwrap())
    }

    /// Runs in a terminal of 100 columns and 40 lines.
    pub fn terminal(&self, args: &[&str]) -> Terminal {
        self.terminal_with(args, (100, 40), &[])
    }

    /// Runs in a terminal of so many columns and lines, with these variables.
    pub fn terminal_with(&self, args: &[&str], size: (u16, u16), variables: &[(&str, &str)]) -> Terminal {
        self.terminal_of(env!("CARGO_BIN_EXE_tinmold"), args, size, variables)
    }

    /// Runs another program in a terminal.
    pub fn terminal_of(
        &self,
        program: &str,
        args: &[&str],
        size: (u16, u16),
        variables: &[(&str, &str)],
    ) -> Terminal {
        let mut command = CommandBuilder::new(program);
        command.args(args);
        command.cwd(self.folder.path());
        command.env_remove("CI");
        command.env_remove("NO_COLOR");
        command.env_remove("TINMOLD_LOG");
        command.env("TERM", "xterm-256color");
        for (variable, value) in self.environment() {
            command.env(variable, value);
        }
        for (variable, value) in variables {
            command.env(variable, value);
        }
        Terminal::start(command, size)
    }
}

impl From<Output> for Ran {
    fn from(output: Output) -> Self {
        let out = String::from_utf8_lossy(&output.stdout).into_owned();
        follows_its_schema(&out);
        let err = String::from_utf8_lossy(&output.stderr).into_owned();
        Self { code: output.status.code().unwrap_or(-1), out, err }
    }
}

/// Asserts that a document of the program is as `docs/schemas` describes it.
#[track_caller]
fn follows_its_schema(out: &str) {
    let Ok(document) = serde_json::from_str::<serde_json::Value>(out) else { return };
    let Some(name) = document["schema"].as_str() else { return };
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../docs/schemas/{name}.json"));
    let schema = fs::read_to_string(&path).unwrap_or_else(|error| panic!("{name}: {error}"));
    let validator = jsonschema::validator_for(&serde_json::from_str(&schema).unwrap()).unwrap();
    let errors: Vec<String> =
        validator.iter_errors(&document).map(|error| format!("{}: {error}", error.instance_path())).collect();
    assert!(errors.is_empty(), "{name}: {errors:#?}\n{out}");
}

impl Ran {
    /// Asserts the exit code, and that every text was printed.
    #[track_caller]
    pub fn says(self, code: i32, texts: &[&str]) -> Self {
        let all = format!("{}{}", self.out, self.err);
        assert_eq!(self.code, code, "{all}");
        for text in texts {
            assert!(all.contains(text), "{text:?} is not in:\n{all}");
        }
        self
    }
}

pub struct Terminal {
    screen: Arc<Mutex<vt100::Parser>>,
    keys: Box<dyn Write + Send>,
    child: Box<dyn Child + Send + Sync>,
    /// Feeds the screen until the terminal is closed.
    reading: thread::JoinHandle<()>,
    pty: Box<dyn portable_pty::MasterPty + Send>,
}

impl Terminal {
    fn start(command: CommandBuilder, (columns, rows): (u16, u16)) -> Self {
        let size = PtySize { rows, cols: columns, pixel_width: 0, pixel_height: 0 };
        let pair = native_pty_system().openpty(size).unwrap();
        let child = pair.slave.spawn_command(command).unwrap();
        drop(pair.slave);
        let (rows, columns) = (NonZero::new(rows).unwrap(), NonZero::new(columns).unwrap());
        let screen = Arc::new(Mutex::new(vt100::Parser::new(rows, columns, 500)));
        let mut reader = pair.master.try_clone_reader().unwrap();
        let keys = Arc::new(Mutex::new(pair.master.take_writer().unwrap()));
        let shared = Arc::clone(&screen);
        let answers = Arc::clone(&keys);
        let reading = thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(length @ 1..) = reader.read(&mut bytes) {
                shared.lock().unwrap().process(&bytes[..length]);
                // Programs ask the terminal for the position of its cursor.
                if bytes[..length].windows(4).any(|window| window == b"\x1b[6n") {
                    let (row, column) = shared.lock().unwrap().screen().cursor_position();
                    let _ = write!(answers.lock().unwrap(), "\x1b[{};{}R", row + 1, column + 1);
                }
            }
        });
        let keys = Box::new(Shared(keys));
        Self { screen, keys, child, reading, pty: pair.master }
    }

    pub fn screen(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Waits until the text is on the screen.
    #[track_caller]
    pub fn sees(&mut self, text: &str) -> &mut Self {
        let end = Instant::now() + Duration::from_secs(30);
        while !self.screen().contains(text) {
            assert!(Instant::now() < end, "{text:?} never came; the screen is:\n{}", self.screen());
            thread::sleep(Duration::from_millis(10));
        }
        self
    }

    pub fn types(&mut self, keys: &str) -> &mut Self {
        self.keys.write_all(keys.as_bytes()).unwrap();
        self.keys.flush().unwrap();
        self
    }

    /// Waits until the text is on the screen no more.
    #[track_caller]
    pub fn loses(&mut self, text: &str) -> &mut Self {
        let end = Instant::now() + Duration::from_secs(30);
        while self.screen().contains(text) {
            assert!(Instant::now() < end, "{text:?} stays; the screen is:\n{}", self.screen());
            thread::sleep(Duration::from_millis(10));
        }
        self
    }

    /// Goes down to the row of the form that begins so.
    #[track_caller]
    pub fn goes_to(&mut self, row: &str) -> &mut Self {
        self.goes_down(row, 2)
    }

    /// Goes down to the file of the tree that begins so, where the tree begins at this column.
    #[track_caller]
    pub fn goes_to_file(&mut self, file: &str, column: usize) -> &mut Self {
        self.goes_down(file, column)
    }

    #[track_caller]
    fn goes_down(&mut self, wanted: &str, column: usize) -> &mut Self {
        // What was typed before has its effect first.
        self.rests();
        for _ in 0..100 {
            let before = self.marked(column);
            if before.trim_start().starts_with(wanted) {
                return self;
            }
            self.types(DOWN);
            let end = Instant::now() + Duration::from_secs(10);
            while [before.as_str(), ""].contains(&&*self.marked(column)) && Instant::now() < end {
                thread::sleep(Duration::from_millis(5));
            }
            assert!(
                self.marked(column) != before,
                "{wanted:?} is not below; the screen is:\n{}",
                self.screen()
            );
            thread::sleep(Duration::from_millis(15));
        }
        panic!("{wanted:?} never came; the screen is:\n{}", self.screen());
    }

    /// Waits until the screen stays as it is.
    pub fn rests(&mut self) -> &mut Self {
        let end = Instant::now() + Duration::from_secs(10);
        let mut before = self.screen();
        loop {
            thread::sleep(Duration::from_millis(150));
            let now = self.screen();
            if now == before || Instant::now() > end {
                return self;
            }
            before = now;
        }
    }

    /// Returns the text after the mark in this column.
    fn marked(&self, column: usize) -> String {
        let screen = self.screen();
        let marked = |line: &str| {
            let (at, _) = line.char_indices().nth(column).filter(|(_, c)| *c == '▸')?;
            let rest = line[at + '▸'.len_utf8()..].split('│').next().unwrap_or("");
            // What stands further right may change under the mark.
            Some(rest.chars().take(24).collect::<String>())
        };
        screen.lines().find_map(marked).unwrap_or_default()
    }

    /// Looks at the screen.
    pub fn with<T>(&self, look: impl FnOnce(&vt100::Screen) -> T) -> T {
        look(self.screen.lock().unwrap().screen())
    }

    /// Writes the project, and waits for the end.
    #[track_caller]
    pub fn writes(&mut self) {
        self.types(WRITE).sees("Write it?").types("\r").sees("Written:");
        assert_eq!(self.ends(), 0);
    }

    /// Makes the terminal of another size.
    pub fn resize(&mut self, columns: u16, rows: u16) -> &mut Self {
        let (high, wide) = (NonZero::new(rows).unwrap(), NonZero::new(columns).unwrap());
        self.screen.lock().unwrap().screen_mut().set_size(high, wide);
        self.pty.resize(PtySize { rows, cols: columns, pixel_width: 0, pixel_height: 0 }).unwrap();
        self
    }

    /// Returns the number of the process.
    pub fn process(&self) -> u32 {
        self.child.process_id().unwrap()
    }

    /// Waits for the end, and for the last words on the screen; gives the exit code.
    #[track_caller]
    pub fn ends(&mut self) -> u32 {
        let end = Instant::now() + Duration::from_secs(60);
        let code = loop {
            if let Some(status) = self.child.try_wait().unwrap() {
                break status.exit_code();
            }
            assert!(Instant::now() < end, "it does not end; the screen is:\n{}", self.screen());
            thread::sleep(Duration::from_millis(5));
        };
        // Something that it started may hold the terminal longer.
        let end = Instant::now() + Duration::from_secs(5);
        while !self.reading.is_finished() && Instant::now() < end {
            thread::sleep(Duration::from_millis(1));
        }
        code
    }
}

struct Shared(Arc<Mutex<Box<dyn Write + Send>>>);

impl Write for Shared {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.lock().unwrap().write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.lock().unwrap().flush()
    }
}

/// Casts a mold with these answers and the defaults, whatever the machine lacks.
#[track_caller]
pub fn cast(place: &Place, mold: &str, folder: &str, answers: &[&str]) {
    let mut command = place.command();
    command.args(["cast", mold, folder, "--unattended", "--skip-preflight", "--quiet"]);
    for answer in answers {
        command.args(["--set", answer]);
    }
    place.finish(&mut command).says(0, &[]);
}

/// Runs a program in a directory of the place.
pub fn run_in(place: &Place, folder: &str, program: &str, args: &[&str]) -> Ran {
    place.finish(Command::new(program).args(args).current_dir(place.path(folder)))
}

/// Returns true if the program is installed; Node.js has to be one that the molds take.
pub fn has(program: &str) -> bool {
    let args: &[&str] = match program {
        "go" => &["version"],
        "node" => &[
            "--eval",
            "process.exit(typeof URL.parse === 'function' && process.features.typescript ? 0 : 1)",
        ],
        _ => &["--version"],
    };
    Command::new(program).args(args).output().is_ok_and(|output| output.status.success())
}

/// Sends bytes to a port of this machine, and returns all that comes back until the other side closes.
pub fn answer(port: u16, request: &[u8]) -> io::Result<String> {
    let mut stream = TcpStream::connect(("127.0.0.1", port))?;
    stream.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
    // A request that is refused may be cut while it is still sent.
    let _ = stream.write_all(request);
    let mut bytes = Vec::new();
    if let Err(error) = stream.read_to_end(&mut bytes) {
        assert_eq!(error.kind(), io::ErrorKind::ConnectionReset, "{error}");
    }
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Waits until something is so; panics with `complaint` once that takes longer than these seconds.
pub fn wait_until(seconds: u64, complaint: &str, is_so: impl Fn() -> bool) {
    let begun = Instant::now();
    while !is_so() {
        assert!(begun.elapsed() < Duration::from_secs(seconds), "{complaint}");
        thread::sleep(Duration::from_millis(50));
    }
}

/// Notes that something was not tested for want of a tool; `.ci/run` prints these notes at the end.
pub fn left_out(what: &str, tool: &str) {
    let line = format!("{what}: needs {tool}\n");
    eprint!("left out: {line}");
    let notes = Path::new(env!("CARGO_TARGET_TMPDIR")).join("left-out.txt");
    // Another user's build directory may not be writable; the line above is then the only note.
    if let Ok(mut file) = fs::OpenOptions::new().create(true).append(true).open(notes) {
        file.write_all(line.as_bytes()).unwrap();
    }
}

/// Packs the mold `m` into the folder `shelf`.
pub fn pack(place: &Place) {
    fs::create_dir_all(place.path("shelf")).unwrap();
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &[]);
}

/// Returns the digest of the mold `m`.
pub fn digest_of(place: &Place) -> String {
    let shown = place.run(&["show", "./m", "--format", "json"]).out;
    let shown: serde_json::Value = serde_json::from_str(&shown).unwrap();
    shown["digest"].as_str().unwrap().to_owned()
}
