//! The string window as SVG, from the geometry of the report.

use std::fmt::Write as _;

use heliant_core::stages::strings::{StringWindow, Tape};

const WIDTH: f64 = 680.0;
const LEFT: f64 = 110.0;
const ROW: f64 = 34.0;
const TOP: f64 = 34.0;

/// Text that may stand in XML.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

pub(crate) fn svg(w: &StringWindow, tapes: &[Tape]) -> String {
    let height = TOP + w.rows.len() as f64 * ROW + 34.0;
    let bottom = height - 26.0;
    let x = |v: f64| LEFT + v / w.axis_max_v * (WIDTH - LEFT - 12.0);
    let mut s = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {WIDTH} {height}\" \
            font-family=\"Atkinson Hyperlegible Next\" font-size=\"11\" fill=\"#15202B\">"
    );
    let mut band = |from: Option<f64>, to: Option<f64>, fill: &str| {
        if let (Some(a), Some(b)) = (from, to) {
            let _ = write!(
                s,
                "<rect x=\"{:.1}\" y=\"{TOP}\" width=\"{:.1}\" height=\"{:.1}\" fill=\"{fill}\"/>",
                x(a),
                x(b) - x(a),
                bottom - TOP
            );
        }
    };
    band(w.tracking_min_v, w.tracking_max_v, "#EDF4F0");
    band(w.full_power_min_v, w.full_power_max_v, "#DDEBE2");
    band(w.limit_v, Some(w.axis_max_v), "#FBE6E3");
    if let Some(limit) = w.limit_v {
        let _ = write!(
            s,
            "<line x1=\"{0:.1}\" x2=\"{0:.1}\" y1=\"{1}\" y2=\"{bottom}\" stroke=\"#B0261C\" \
                stroke-width=\"2\"/>",
            x(limit),
            TOP - 6.0
        );
        let _ = write!(
            s,
            "<text x=\"{:.1}\" y=\"{}\" text-anchor=\"end\" fill=\"#B0261C\">limit {limit:.0} \
                V</text>",
            x(limit) - 4.0,
            TOP - 8.0
        );
    }
    if let Some(from) = w.tracking_min_v {
        let _ = write!(
            s,
            "<text x=\"{:.1}\" y=\"{}\">tracking from {from:.0}</text>",
            x(from) + 3.0,
            TOP - 8.0
        );
    }
    if let (Some(from), Some(to)) = (w.full_power_min_v, w.full_power_max_v) {
        let _ = write!(
            s,
            "<text x=\"{:.1}\" y=\"{}\">full power {from:.0} to {to:.0}</text>",
            x(from) + 3.0,
            TOP - 8.0
        );
    }
    for (i, row) in w.rows.iter().enumerate() {
        let y = TOP + i as f64 * ROW + ROW / 2.0;
        let fill = tapes.iter().find(|t| t.letter == row.letter).map_or("#66717B", |t| t.hex);
        let _ = write!(
            s,
            "<rect x=\"4\" y=\"{:.1}\" width=\"22\" height=\"16\" rx=\"3\" fill=\"{fill}\"/>",
            y - 10.0
        );
        let _ = write!(
            s,
            "<text x=\"15\" y=\"{:.1}\" text-anchor=\"middle\" fill=\"#FFFFFF\" \
                font-weight=\"bold\">{}</text>",
            y + 2.0,
            row.letter
        );
        let _ = write!(
            s,
            "<text x=\"32\" y=\"{:.1}\">{} {}</text>",
            y + 2.0,
            row.n,
            escaped(&row.face)
        );
        if let (Some(hot), Some(warm)) = (row.vmp_hot_v, row.vmp_cold_v) {
            let _ = write!(
                s,
                "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{:.1}\" height=\"10\" fill=\"{fill}\"/>",
                x(hot),
                y - 6.0,
                x(warm) - x(hot)
            );
            let _ = write!(
                s,
                "<text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{hot:.0}</text>",
                x(hot),
                y + 15.0
            );
        }
        if let (Some(from), Some(cold)) = (row.vmp_cold_v.or(row.vmp_hot_v), row.voc_cold_v) {
            let _ = write!(
                s,
                "<line x1=\"{:.1}\" x2=\"{:.1}\" y1=\"{2:.1}\" y2=\"{2:.1}\" stroke=\"{fill}\" \
                    stroke-width=\"2\"/>",
                x(from),
                x(cold),
                y - 1.0
            );
            let _ = write!(
                s,
                "<line x1=\"{0:.1}\" x2=\"{0:.1}\" y1=\"{1:.1}\" y2=\"{2:.1}\" stroke=\"{fill}\" \
                    stroke-width=\"2.5\"/>",
                x(cold),
                y - 8.0,
                y + 6.0
            );
            let _ = write!(
                s,
                "<text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{cold:.0}</text>",
                x(cold),
                y + 15.0
            );
        }
    }
    let _ = write!(
        s,
        "<line x1=\"{LEFT}\" x2=\"{:.1}\" y1=\"{bottom}\" y2=\"{bottom}\" stroke=\"#15202B\"/>",
        WIDTH - 12.0
    );
    for t in &w.ticks_v {
        let _ = write!(
            s,
            "<line x1=\"{0:.1}\" x2=\"{0:.1}\" y1=\"{bottom}\" y2=\"{1}\" stroke=\"#15202B\"/>",
            x(*t),
            bottom + 5.0
        );
        let _ = write!(
            s,
            "<text x=\"{:.1}\" y=\"{}\" text-anchor=\"middle\">{t:.0}</text>",
            x(*t),
            bottom + 18.0
        );
    }
    let _ = write!(s, "<text x=\"4\" y=\"{}\">volts DC</text></svg>", bottom + 18.0);
    s
}

#[cfg(test)]
mod tests {
    use heliant_core::evaluate;
    use heliant_core::job;

    use super::*;

    fn drawing(change: impl FnOnce(&mut job::JobFile)) -> String {
        let mut file = job::read(include_str!("../../../data/demo/kestrel-lane.json"))
            .expect("the demo job reads")
            .file;
        change(&mut file);
        let report = evaluate(&file.job, &file.library, &[]);
        svg(&report.string_windows[0], &report.tapes)
    }

    #[test]
    fn every_string_is_drawn_in_its_tape_with_its_volts() {
        let text = drawing(|_| ());
        for part in
            ["#1F63B0", "#D26A00", "#23824F", "limit 600 V", ">345<", ">533<", ">201<", ">311<"]
        {
            assert!(text.contains(part), "{part} in {text}");
        }
        assert!(text.starts_with("<svg") && text.trim_end().ends_with("</svg>"));
    }

    #[test]
    fn names_cannot_break_the_drawing() {
        let text = drawing(|f| f.job.site.faces[0].name = "<b> & \"roof\"".to_owned());
        assert!(text.contains("&lt;b&gt; &amp; &quot;roof&quot;"), "{text}");
        assert!(!text.contains("<b>"));
    }

    #[test]
    fn what_is_open_is_left_out() {
        let text = drawing(|f| f.job.site.t_min_c = None);
        assert!(!text.contains(">533<") && !text.contains("NaN"), "{text}");
    }
}
