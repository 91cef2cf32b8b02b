//! The API as a client meets it, each test over a database of its own.

mod accounts;
mod bench;
mod described;
mod drawings;
mod events;
mod front;
mod guests;
mod imports;
mod job_list;
mod jobs;
mod laying;
mod library;
mod lists;
mod odd;
mod packs;
mod passwords;
mod plan;
mod readings;
mod revisions;
mod roof;
mod rude;
mod security;
mod sheets;
mod versions;
mod workings;
