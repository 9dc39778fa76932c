//! Migrations are part of the program: a changed one must rebuild it.
fn main() {
    println!("cargo:rerun-if-changed=migrations");
}
