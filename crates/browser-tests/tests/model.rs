//! The front end's model, which has no screen: its own tests, run with the others.

use std::path::Path;
use std::process::Command;

#[test]
fn the_model_of_the_front_end_holds_its_tests() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let ran = Command::new("npm")
        .args(["run", "--silent", "test"])
        .current_dir(web)
        .env("NO_COLOR", "1")
        .output();
    let ran = ran.expect("npm is there: ./heliant test asks for it");
    let said =
        format!("{}{}", String::from_utf8_lossy(&ran.stdout), String::from_utf8_lossy(&ran.stderr));
    assert!(ran.status.success(), "{said}");
    assert!(said.contains("passed") && !said.contains("No test files"), "{said}");
    println!("{said}");
}
