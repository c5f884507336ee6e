//! The program as it is started from a shell, stopped as the power would.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

pub(crate) struct Program {
    pub(crate) child: Child,
    /// Where it says it is: `http://127.0.0.1:40123`.
    pub(crate) address: String,
    /// What it says after that, line by line.
    pub(crate) says: Box<dyn Iterator<Item = String>>,
}

impl Program {
    /// On a data folder and a free port, told more of what to do, in such an environment.
    pub(crate) fn start(data: &Path, more: &[&str], environment: &[(&str, &Path)]) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_gradimen"))
            .arg("serve")
            .args(more)
            .arg("--data")
            .arg(data)
            .envs(environment.iter().copied())
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let lines = BufReader::new(child.stdout.take().unwrap()).lines();
        let mut says = lines.map_while(Result::ok);
        let line = says.find_map(|line| line.strip_prefix("Gradimen is at ").map(str::to_owned));
        let line = line.unwrap();
        let address = line.split_whitespace().next().unwrap();
        Self {
            child,
            address: address.trim_end_matches('/').to_owned(),
            says: Box::new(says),
        }
    }

    /// On this machine alone.
    pub(crate) fn here(data: &Path) -> Self {
        Self::start(data, &["--listen", "127.0.0.1:0"], &[])
    }
}

/// As the power goes: nothing is closed, nothing is said.
impl Drop for Program {
    fn drop(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}
