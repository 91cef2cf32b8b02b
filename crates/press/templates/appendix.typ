#pagebreak(weak: true)
= Appendix: checks
#for s in d.stages.filter(s => s.checks.len() > 0) [
  == #s.title
  #table(columns: (18%, 1fr, auto, 24%, 19%, auto), align: (left, left, right, left, left, left),
    head[About][Check][Value][Limit][Room][Verdict],
    ..s.checks.map(c => (c.subject, [#c.title \ #text(size: 7pt, fill: rgb("#66717B"))[#c.source]], mono(c.value), text(size: 8pt, c.limit), mono(c.margin), verdict(c.verdict))).flatten()
  )
]

= Appendix: working of every figure
#for s in d.stages.filter(s => s.figures.len() > 0) [
  == #s.title
  #for f in s.figures [
    #block(breakable: false, width: 100%, inset: (y: 4pt), below: 4pt, stroke: (top: 0.5pt + rgb("#D8DBDC")))[
      *#f.subject* · #f.title #h(1fr) #mono(weight: "bold", f.value) \
      #text(size: 7pt, fill: rgb("#66717B"))[#f.id · #f.source]
      #if f.working.len() > 0 {
        grid(columns: (30%, 1fr, auto, 22%), column-gutter: 6pt, row-gutter: 3.5pt, align: (left, left, right, left),
          ..f.working.map(l => (text(size: 8pt, l.label), mono(size: 7.5pt, l.numbers), mono(size: 8pt, l.value), text(size: 7pt, fill: rgb("#66717B"), l.source))).flatten())
      }
      #if f.missing != "" [Missing: #f.missing]
      #if f.note != "" [#text(size: 8pt, f.note)]
    ]
  ]
]

