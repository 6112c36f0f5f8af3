//! The front end is embedded in the binary; without it there is nothing to embed.

fn main() {
    println!("cargo::rerun-if-changed=../../web/dist");
    if !std::path::Path::new("../../web/dist/index.html").is_file() {
        println!(
            "cargo::error=web/dist is missing: run script/build-web first (script/start and script/test do it for you)"
        );
    }
}
