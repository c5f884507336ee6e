//! Flips a bit of a data file, a thousand times anew: each is named by `verify` or at the start, or changed nothing that was recorded.
//!
//! `cargo run --release -p gradimen-store --example flips [count]`

#[path = "../tests/common/mod.rs"]
mod common;

#[tokio::main(flavor = "current_thread")]
async fn main() {
    let count = std::env::args().nth(1).and_then(|count| count.parse().ok());
    let count = count.unwrap_or(1000);
    let silent = common::flips(count, 20_261_127).await;
    println!("{count} bits flipped, {} silent", silent.len());
    for one in &silent {
        println!("{one}");
    }
    assert!(silent.is_empty(), "a change that nothing named");
}
