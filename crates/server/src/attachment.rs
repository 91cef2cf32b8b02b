//! Answers that are files to be kept.

use rocket::http::{ContentType, Header};
use rocket::response::Responder;

/// A file to be kept.
#[derive(Responder)]
pub struct Attachment<T> {
    pub(crate) body: T,
    pub(crate) content_type: ContentType,
    pub(crate) disposition: Header<'static>,
}

impl<T> Attachment<T> {
    /// A file that is saved under a name.
    pub(crate) fn file(body: T, content_type: ContentType, name: &str) -> Self {
        let disposition = format!("attachment; filename=\"{name}\"");
        let disposition = Header::new("Content-Disposition", disposition);
        Attachment { body, content_type, disposition }
    }
}

/// A file name of letters, digits and dashes.
pub(crate) fn file_name(job: &str, ending: &str) -> String {
    let plain: String = job
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
        .collect();
    let words: Vec<&str> = plain.split('-').filter(|w| !w.is_empty()).collect();
    format!("{}.{ending}", if words.is_empty() { "job".to_owned() } else { words.join("-") })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn file_names_are_plain_whatever_the_job_is_called() {
        for (name, wanted) in [
            ("Kestrel Lane workshop", "kestrel-lane-workshop.pdf"),
            ("14 / B: \"roof\"\r\nSet-Cookie: x", "14-b-roof-set-cookie-x.pdf"),
            ("../../etc/passwd", "etc-passwd.pdf"),
            ("Дом", "job.pdf"),
            ("", "job.pdf"),
        ] {
            assert_eq!(file_name(name, "pdf"), wanted);
        }
    }
}
