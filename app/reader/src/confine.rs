//! A reader's bounds: memory, processor time, open files, no network, no other program, and an end when its parent ends.

use crate::ask::Allowance;

#[cfg(target_os = "linux")]
mod linux {
    use std::collections::BTreeMap;

    use rustix::process::{Resource, Rlimit, Signal, setrlimit};
    use seccompiler::{BpfProgram, SeccompAction, SeccompFilter, SeccompRule};

    use crate::ask::Allowance;

    /// Files that may be open: the three pipes, and what the system's own library opens for a moment.
    const FILES: u64 = 12;
    /// Of the address space, beside what is written to: the program itself, and what is set aside and never touched.
    const SPACE: u64 = 1 << 30;
    const NICENESS: i32 = 10;

    fn limit(what: Resource, now: u64, most: u64) -> Result<(), String> {
        setrlimit(what, Rlimit { current: Some(now), maximum: Some(most) }).map_err(|e| format!("a bound of the reader could not be set: {e}"))
    }

    pub fn begin(first: Allowance, most: Allowance) -> Result<(), String> {
        let _ = rustix::process::set_parent_process_death_signal(Some(Signal::KILL));
        let _ = rustix::process::nice(NICENESS);
        limit(Resource::Core, 0, 0)?;
        limit(Resource::Nofile, FILES, FILES)?;
        widen(first, most)?;
        forbid()
    }

    pub fn widen(now: Allowance, most: Allowance) -> Result<(), String> {
        limit(Resource::Data, now.bytes, most.bytes)?;
        limit(Resource::As, now.bytes + SPACE, most.bytes + SPACE)?;
        // At the first bound it is ended with a signal that tells what it was.
        limit(Resource::Cpu, now.seconds.min(most.seconds), most.seconds + 5)
    }

    /// No network and no other program: the calls for them are answered with "not permitted".
    fn forbid() -> Result<(), String> {
        let calls: [i64; 9] = {
            use seccompiler_calls::*;
            [SOCKET, SOCKETPAIR, CONNECT, BIND, LISTEN, EXECVE, EXECVEAT, PTRACE, KILL]
        };
        let rules: BTreeMap<i64, Vec<SeccompRule>> = calls.into_iter().map(|c| (c, Vec::new())).collect();
        let arch = std::env::consts::ARCH.try_into().map_err(|e| format!("{e:?}"))?;
        let denied = SeccompAction::Errno(rustix::io::Errno::PERM.raw_os_error() as u32);
        let filter = SeccompFilter::new(rules, SeccompAction::Allow, denied, arch).map_err(|e| e.to_string())?;
        let program: BpfProgram = filter.try_into().map_err(|e: seccompiler::BackendError| e.to_string())?;
        seccompiler::apply_filter(&program).map_err(|e| e.to_string())
    }

    /// Numbers of the calls. Source: the kernel's tables, `arch/x86/entry/syscalls/syscall_64.tbl` and `include/uapi/asm-generic/unistd.h`.
    mod seccompiler_calls {
        #[cfg(target_arch = "x86_64")]
        const ALL: [i64; 9] = [41, 53, 42, 49, 50, 59, 322, 101, 62];
        #[cfg(not(target_arch = "x86_64"))]
        const ALL: [i64; 9] = [198, 199, 203, 200, 201, 221, 281, 117, 129];
        pub const SOCKET: i64 = ALL[0];
        pub const SOCKETPAIR: i64 = ALL[1];
        pub const CONNECT: i64 = ALL[2];
        pub const BIND: i64 = ALL[3];
        pub const LISTEN: i64 = ALL[4];
        pub const EXECVE: i64 = ALL[5];
        pub const EXECVEAT: i64 = ALL[6];
        pub const PTRACE: i64 = ALL[7];
        pub const KILL: i64 = ALL[8];
    }
}

/// Before anything is read.
pub(crate) fn begin(first: Allowance, most: Allowance) -> Result<(), String> {
    #[cfg(target_os = "linux")]
    return linux::begin(first, most);
    #[cfg(not(target_os = "linux"))]
    return Ok(drop((first, most)));
}

/// Once the picture has told how large it is.
pub(crate) fn widen(now: Allowance, most: Allowance) -> Result<(), String> {
    #[cfg(target_os = "linux")]
    return linux::widen(now, most);
    #[cfg(not(target_os = "linux"))]
    return Ok(drop((now, most)));
}
