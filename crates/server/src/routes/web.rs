//! The front end as built: files with a hash in their name stay in the browser's cache, the page
//! itself does not.

use std::path::{Path, PathBuf};

use rand::RngCore;
use rocket::State;
use rocket::fs::NamedFile;
use rocket::get;
use rocket::http::{ContentType, Header, Status};
use rocket::response::Responder;

use crate::Settings;

/// A file with a hash in its name.
#[derive(Responder)]
pub struct Hashed {
    file: NamedFile,
    cache: Header<'static>,
    content_type: ContentType,
}

/// The page, with the nonce its styles carry.
#[derive(Responder)]
pub struct Page {
    body: String,
    content_type: ContentType,
    policy: Header<'static>,
    cache: Header<'static>,
}

/// Scripts, styles and fonts.
#[get("/assets/<path..>")]
pub async fn assets(path: PathBuf, settings: &State<Settings>) -> Option<Hashed> {
    let content_type = path
        .extension()
        .and_then(|e| ContentType::from_extension(&e.to_string_lossy()))
        .unwrap_or(ContentType::Binary);
    let path = settings.web.join("assets").join(&path);
    // A folder opens too, and then has nothing to say.
    if !rocket::tokio::fs::metadata(&path).await.ok()?.is_file() {
        return None;
    }
    let file = NamedFile::open(path).await.ok()?;
    Some(Hashed {
        file,
        cache: Header::new("Cache-Control", "public, max-age=31536000, immutable"),
        content_type,
    })
}

async fn page(web: &Path) -> Result<Page, Status> {
    let text = rocket::tokio::fs::read_to_string(web.join("index.html"))
        .await
        .map_err(|_| Status::NotFound)?;
    let mut bytes = [0_u8; 16];
    rand::rng().fill_bytes(&mut bytes);
    let nonce: String = bytes.iter().map(|b| format!("{b:02x}")).collect();
    Ok(Page {
        body: text.replace("{{nonce}}", &nonce),
        content_type: ContentType::HTML,
        policy: Header::new("Content-Security-Policy", policy(&nonce)),
        cache: Header::new("Cache-Control", "no-store"),
    })
}

/// Everything from here, nothing inline but styles with the page's nonce.
fn policy(nonce: &str) -> String {
    format!(
        "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; \
         img-src 'self' data:; connect-src 'self'; base-uri 'none'; \
         form-action 'self'; frame-ancestors 'none'"
    )
}

/// The page.
#[get("/")]
pub async fn index(settings: &State<Settings>) -> Result<Page, Status> {
    page(&settings.web).await
}

/// Every other address of the front end; the API's own are not among them.
#[get("/<path..>", rank = 20)]
pub async fn fallback(path: PathBuf, settings: &State<Settings>) -> Result<Page, Status> {
    if path.starts_with("api") || path.starts_with("assets") {
        return Err(Status::NotFound);
    }
    page(&settings.web).await
}
