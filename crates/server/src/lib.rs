//! The server: Rocket over PostgreSQL. Thin handlers; what is computed is computed in the core.

pub mod attachment;
pub mod compute;
pub mod demo;
mod description;
mod edition;
pub mod front;
pub mod guard;
pub mod hashing;
mod kept;
pub mod packed;
pub mod press;
pub mod problem;
pub mod records;
pub mod routes;
pub mod schema;
pub mod store;
mod timing;
pub mod watching;

use std::path::PathBuf;
use std::time::Instant;

use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::{Header, Status};
use rocket::{Build, Data, Request, Response, Rocket, catchers, routes};
use utoipa::OpenApi;

use crate::compute::{ComputeLimits, Computing};
use crate::guard::Asking;
use crate::hashing::Hasher;
use crate::kept::Kept;
use crate::press::{Press, PressSettings};
use crate::problem::ApiError;
use crate::routes::events::Events;
use crate::store::Store;
use crate::watching::Watching;

/// How a server is set up.
#[derive(Clone, Debug)]
pub struct Settings {
    /// Address of the database.
    pub database_url: String,
    /// Folder with the front end as built.
    pub web: PathBuf,
    /// Cookies only over https.
    pub secure_cookies: bool,
    /// Connections to the database.
    pub pool_size: u32,
    /// Header in which the front passes the caller's address.
    pub ip_header: Option<String>,
    /// The program that sets documents.
    pub press: PressSettings,
    /// How much is computed at once.
    pub computing: ComputeLimits,
}

/// Declares every route of the API once: for the description and for the server.
macro_rules! api {
    ($($route:tt)*) => {
        /// The description of the API; the front end's types are made from it.
        #[derive(OpenApi)]
        #[openapi(
            info(title = "Heliant", description = "Jobs, readings and papers of PV systems."),
            paths($($route)*)
        )]
        pub struct Description;

        fn api_routes() -> Vec<rocket::Route> {
            routes![openapi, $($route)*]
        }
    };
}

api! {
    routes::health::health,
    routes::session::sign_in,
    routes::session::who,
    routes::session::sign_out,
    routes::session::change_password,
    routes::session::reset_password,
    routes::shown::to,
    routes::shown::set_own,
    routes::shown::set_company,
    routes::guests::open,
    routes::guests::list,
    routes::guests::seat,
    routes::guests::make_link,
    routes::guests::end_link,
    routes::accounts::list,
    routes::accounts::add,
    routes::accounts::change,
    routes::accounts::unlock,
    routes::accounts::password_link,
    routes::job_list::list,
    routes::job_list::archive,
    routes::job_list::delete,
    routes::jobs::create,
    routes::jobs::look,
    routes::jobs::import,
    routes::jobs::duplicate,
    routes::jobs::template,
    routes::jobs::read,
    routes::jobs::save,
    routes::revisions::revisions,
    routes::revisions::name,
    routes::revisions::compare_with,
    routes::revisions::revision,
    routes::revisions::workings,
    routes::revisions::cures,
    routes::drawings::one_line,
    routes::drawings::labels,
    routes::drawings::faults,
    routes::drawings::one_line_file,
    routes::drawings::label_file,
    routes::jobs::export,
    routes::readings::preview,
    routes::readings::add,
    routes::readings::withdraw,
    routes::readings::list,
    routes::readings::running,
    routes::library::all,
    routes::library::offered,
    routes::library::sheets,
    routes::library::known,
    routes::library::history,
    routes::library::fields,
    routes::library::judge,
    routes::library::add,
    routes::consequences::consequences,
    routes::library::retire,
    routes::library::import,
    routes::library::export,
    routes::plan::trial,
    routes::plan::ways,
    routes::plan::watch,
    routes::plan::migrate,
    routes::plan::command,
    routes::laying::wires,
    routes::laying::options,
    routes::laying::budget,
    routes::laying::routes,
    routes::laying::pieces,
    routes::laying::laid,
    routes::laying::sizes,
    routes::rates::all,
    routes::rates::set,
    routes::roof::fill,
    routes::roof::route,
    routes::roof::serials,
    routes::roof::shade,
    routes::roof::drawing,
    routes::sums::list,
    routes::sums::run,
    routes::sums::into_job,
    routes::sums::weather,
    routes::sums::demo_weather,
    routes::events::events,
    routes::pack::state,
    routes::pack::ask,
    routes::pack::put_first,
    routes::pack::cancel,
    routes::pack::pack,
}

/// The description as pretty JSON with a closing newline.
pub fn openapi_text() -> String {
    let described = description::completed(Description::openapi());
    let mut text = described.to_pretty_json().expect("the description is JSON");
    text.push('\n');
    text
}

#[rocket::get("/openapi.json")]
fn openapi() -> (rocket::http::ContentType, String) {
    (rocket::http::ContentType::JSON, openapi_text())
}

#[rocket::catch(404)]
fn not_found() -> ApiError {
    ApiError::NotFound("address")
}

#[rocket::catch(default)]
fn other(status: Status, _: &Request) -> ApiError {
    match status.code {
        413 => ApiError::TooLarge { limit: heliant_core::job::MAX_PLAN_BYTES },
        400..=499 => ApiError::invalid("", format!("{status}"), "see /api/openapi.json"),
        _ => ApiError::Internal(format!("{status}")),
    }
}

/// Headers every answer carries.
struct SecurityHeaders;

#[rocket::async_trait]
impl Fairing for SecurityHeaders {
    fn info(&self) -> Info {
        Info { name: "security headers", kind: Kind::Response }
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        for (name, value) in [
            ("X-Content-Type-Options", "nosniff"),
            ("X-Frame-Options", "DENY"),
            ("Referrer-Policy", "same-origin"),
            ("Cross-Origin-Opener-Policy", "same-origin"),
            ("Cross-Origin-Resource-Policy", "same-origin"),
            ("Permissions-Policy", "camera=(), microphone=(), geolocation=()"),
        ] {
            response.set_header(Header::new(name, value));
        }
        if response.headers().get_one("Content-Security-Policy").is_none() {
            response.set_header(Header::new(
                "Content-Security-Policy",
                "default-src 'none'; frame-ancestors 'none'",
            ));
        }
        if request.uri().path().starts_with("/api") {
            response.set_header(Header::new("Cache-Control", "no-store"));
        }
    }
}

/// One structured line per request.
struct RequestLog;

#[rocket::async_trait]
impl Fairing for RequestLog {
    fn info(&self) -> Info {
        Info { name: "request log", kind: Kind::Request | Kind::Response }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        request.local_cache(Instant::now);
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        let started = request.local_cache(Instant::now);
        let ms = started.elapsed().as_secs_f64() * 1000.0;
        let path = request.uri().path();
        let account = request.local_cache(Asking::default).0.as_deref();
        let address = request.client_ip().map(tracing::field::display);
        tracing::info!(method = %request.method(), path = %path, status = response.status().code,
            ms, account, address, "request");
    }
}

/// The application, on a free port of the loopback interface: what others reach is the
/// [front](front::Front) before it.
pub fn rocket(settings: Settings) -> Rocket<Build> {
    let figment = rocket::Config::figment()
        .merge(("address", std::net::Ipv4Addr::LOCALHOST))
        .merge(("port", 0))
        .merge(("log_level", "off"))
        .merge(("cli_colors", false))
        .merge(("ident", false))
        .merge(("keep_alive", 15))
        .merge(("shutdown.grace", 1))
        .merge(("shutdown.mercy", 1));
    let figment = match &settings.ip_header {
        Some(name) => figment.merge(("ip_header", name)),
        None => figment.merge(("ip_header", false)),
    };
    let store = Store::new(&settings.database_url, settings.pool_size);
    rocket::custom(figment)
        .manage(Press::start(store.clone(), settings.press.clone()))
        .manage(Hasher::start())
        .manage(Computing::new(settings.computing.clone()))
        .manage(Kept::default())
        .manage(Watching::start(store.clone()))
        .manage(store)
        .manage(Events::listen(settings.database_url.clone()))
        .manage(settings)
        .attach(RequestLog)
        .attach(SecurityHeaders)
        .register("/", catchers![not_found, other])
        .mount("/", routes![routes::web::index, routes::web::assets, routes::web::fallback])
        .mount("/api", api_routes())
}
