//! The API as a client meets it, each test over a database of its own.

mod accounts;
mod bench;
mod events;
mod imports;
mod jobs;
mod library;
mod packs;
mod passwords;
mod plan;
mod readings;
mod roof;
mod security;
mod sheets;
mod versions;
mod workings;
