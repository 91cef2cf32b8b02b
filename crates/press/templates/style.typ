#let d = json("pack.json")
#let lacking = json("lacking.json")
#set document(title: d.name + ", " + d.title, author: "Heliant")
#set page(
  paper: if d.school == "IEC" { "a4" } else { "us-letter" },
  margin: (x: 18mm, top: 22mm, bottom: 20mm),
  header: context [
    #set text(size: 8pt, fill: rgb("#4B5864"))
    #d.name#if d.part != "" [, #d.part] #h(1fr) Revision #d.revision #h(1fr) #d.school
    #v(-6pt)
    #line(length: 100%, stroke: 0.5pt + rgb("#D8DBDC"))
  ],
  footer: context [
    #set text(size: 8pt, fill: rgb("#4B5864"))
    The local code, the authority and a licensed person have the last word.
    #h(1fr) Page #counter(page).display() of #counter(page).final().first()
  ],
)
#set text(font: "Atkinson Hyperlegible Next", size: 9.5pt, fill: rgb("#15202B"), lang: "en")
#set par(leading: 0.55em)
// A word that is longer than a column breaks anywhere.
#show regex("[^\\s\u{200B}]{24,}"): it => it.text.clusters().join("\u{200B}")
#set heading(numbering: none)
#show heading.where(level: 1): it => block(above: 16pt, below: 8pt, text(size: 15pt, weight: "bold", it.body))
#show heading.where(level: 2): it => block(above: 12pt, below: 6pt, text(size: 11pt, weight: "bold", it.body))
#let mono(body, ..rest) = text(font: "Atkinson Hyperlegible Mono", size: 8.5pt, body, ..rest)
#let colours = (Holds: rgb("#1B7446"), Caution: rgb("#8F5B00"), Stop: rgb("#B0261C"), Open: rgb("#4B5864"))
#let verdict(word) = text(weight: "bold", fill: colours.at(word, default: rgb("#4B5864")), word)
#let head(..cells) = table.header(..cells.pos().map(c => text(size: 8pt, fill: rgb("#4B5864"), c)))
#set table(stroke: (x, y) => (bottom: 0.5pt + rgb("#D8DBDC")), inset: (x: 4pt, y: 3.5pt))

