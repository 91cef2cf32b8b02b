#text(size: 8pt, fill: rgb("#A64B15"), weight: "bold")[HELIANT · PACK]
#v(-4pt)
#text(size: 21pt, weight: "bold", d.name)

#let c = d.cover
#if d.demo [
  #block(fill: rgb("#FBF0D9"), inset: 6pt, radius: 3pt)[The data sheets of this job are made-up samples. A real job needs the maker's own.]
]
#if lacking.len() > 0 [
  #block(fill: rgb("#FBF0D9"), inset: 6pt, radius: 3pt)[#lacking.len() characters of this job are in none of the fonts that are installed here and print as empty boxes.]
]

#let lines(text) = text.split("\n").join(linebreak())
#let or-open(text) = if text == "" { [not said] } else { lines(text) }
#grid(columns: (auto, 1fr), column-gutter: 12pt, row-gutter: 5pt,
  [Customer], or-open(c.customer),
  [Contact], or-open(c.contact),
  [Place], or-open(c.address),
  [Practice], [#d.school. #c.rules.],
  [Revision], [#d.revision, saved #d.saved],
  [Printed], d.printed,
  [Clock], c.clock,
  [Verdict], [#verdict(d.verdict) · #d.counts.stop stop · #d.counts.caution caution · #d.counts.open open · #d.counts.holds hold],
)
#if d.appendices > 0 [ #v(4pt) Checks and workings stand in #if d.appendices == 1 [an appendix] else [#d.appendices appendices] of their own. ]

== The system in numbers
#if c.system.len() == 0 [Nothing is planned yet.] else [
  #grid(columns: (1fr,) * 3, column-gutter: 12pt, row-gutter: 6pt,
    ..c.system.map(n => [#text(size: 8pt, fill: rgb("#4B5864"), n.title) \ #mono(size: 11pt, weight: "bold", n.value)]))
]

== Before it is signed
#list(
  [#d.counts.stop stop, #d.counts.caution caution and #d.counts.open open stand under “What needs attention” with what would cure them.],
  [#if c.assumed_n == 0 [Nothing was taken by habit.] else [#c.assumed_n things are taken by habit, #c.confirmed_n of them confirmed on site: “Taken by habit”.]],
  [Not covered yet, and to be checked by other means: #c.not_covered.join(", ").],
)

#if c.signers.len() > 0 [
  == Signatures
  #table(columns: (auto, 1fr, 20%, 15%, 1fr), inset: (x: 4pt, y: 11pt), align: (left, left, left, left, left),
    table.header(..([], [Name], [Licence], [Date], [Signature]).map(h => text(size: 8pt, fill: rgb("#4B5864"), h))),
    ..c.signers.map(s => (s, [], [], [], [])).flatten())
]

#pagebreak()
= Verdicts
#table(columns: (1fr, auto, auto),
  head[Stage][Verdict][Checks],
  ..d.stages.map(s => (s.title, verdict(s.verdict), [#s.checks_n])).flatten()
)

#let telling = d.stages.map(s => s.checks).flatten().filter(c => c.verdict != "Holds" and not c.alternative)
#if telling.len() > 0 [
  == What needs attention
  #for c in telling [
    #block(breakable: false, below: 8pt)[
      #verdict(c.verdict) #h(4pt) *#c.subject* · #c.title #if c.value != "" [· #mono(c.value)] #if c.limit != "" [· #mono(c.limit)] \
      #if c.missing != "" [Missing: #c.missing. ]
      #c.reason
      #for k in c.cures [\ What would cure it: #k]
    ]
  ]
]

= Run schedule
#if d.legs.len() == 0 [No circuit is planned yet.] else [
  #table(columns: (auto, 1fr, 1fr, auto, auto, auto, auto, auto, auto), align: (left, left, left, right, left, left, right, right, right),
    head[Circuit][From, to][Ways][Length][Conductor][Least][Earth][Device][Drop],
    ..d.legs.map(l => ([*#l.circuit*#if l.leg != "" [, leg #l.leg] \ #text(size: 7pt, fill: rgb("#66717B"))[#l.kind#if l.tape != "" [, #l.tape]]],
      [#l.from#if l.to != "" [ to #l.to]], l.via, mono(l.length), text(size: 8pt, l.wire), text(size: 8pt, l.least), mono(l.earth), mono(l.device), mono(l.drop))).flatten())
]
#if d.ways.len() > 0 [
  == Ways
  #table(columns: (auto, 1fr, auto, auto, auto, auto, auto), align: (left, left, left, left, right, left, right),
    head[Way][From, to][Place][Lies in][Length][Bends][Fill],
    ..d.ways.map(w => ([*#w.way*#if w.held != "" [ \ #text(size: 7pt, fill: rgb("#66717B"), w.held)]],
      [#w.from to #w.to#if w.pulled != "" [ \ #text(size: 7pt, fill: rgb("#66717B"))[pull #w.pulled]]],
      w.place, w.lies, mono(w.length), w.bends, mono(w.fill))).flatten())
]

= Equipment and strings
#table(columns: (auto, 1fr, auto, auto),
  head[Kind][Data sheet][Revision][Count],
  ..d.equipment.map(e => (e.what, e.name, mono[#e.revision], mono[#e.count])).flatten()
)
#if d.strings.len() > 0 [
  #table(columns: (auto, auto, 1fr, auto, auto, auto, auto), align: (left, left, left, right, left, right, right),
    head[String][Tape][Face][Modules][Input][Open circuit, cold][Working, hot],
    ..d.strings.map(s => (strong(s.letter), s.tape, s.face, mono[#s.n], s.input, mono(s.cold), mono(s.hot))).flatten()
  )
]
#if d.branches.len() > 0 [
  #table(columns: (auto, auto, 1fr, auto, auto, auto, auto), align: (left, left, left, right, right, right, right),
    head[Branch][Tape][Face][Units][Breaker][Current][Rise to the panel],
    ..d.branches.map(b => (strong(b.letter), b.tape, b.face, mono(b.units), mono(b.breaker), mono(b.amps), mono(b.rise))).flatten()
  )
]
#for i in range(d.windows) [
  == Each string against the inverter's window
  #image("window-" + str(i) + ".svg", width: 100%, alt: "Working volts of each string from the hottest day to the coldest morning, and open-circuit volts in the cold, against the inverter's limits")
]

#if d.roof.len() > 0 [
  = Roof map
  #for (i, f) in d.roof.enumerate() [
    == #f.name
    #image("roof-" + str(i) + ".svg", width: 100%, height: 105mm, fit: "contain", alt: "Map of the face " + f.name + ": modules as they lie, where the leads leave them and how they join, seen from above with the ridge on top")
    #if f.strings.len() > 0 [
      #table(columns: (auto, auto, auto, auto, 1fr, auto, auto), align: (left, left, right, right, left, right, right),
        head[String][Tape][Modules][Turned][Jumpers][Tail +][Tail −],
        ..f.strings.map(s => (strong(s.letter), s.tape, mono[#s.n], mono[#s.turned], if s.jumpers == "" [none] else [#s.jumpers], mono(s.plus), mono(s.minus))).flatten()
      )
    ]
    #table(columns: (1fr, auto), align: (left, right),
      head[About the face][],
      ..f.facts.map(x => (x.title, mono(x.value))).flatten()
    )
  ]
  #if d.cuts.len() > 0 [
    == Cut for the map
    #table(columns: (auto, auto, auto, 1fr), align: (left, right, right, left),
      head[What][Pieces][Length][For],
      ..d.cuts.map(c => (c.what, mono[#c.n], mono(c.m), c.about)).flatten()
    )
  ]
  == Tapes
  #for t in d.tapes [#box(fill: rgb(t.hex), inset: (x: 5pt, y: 2pt), radius: 2pt, text(fill: white, weight: "bold", t.letter)) #t.tape #h(10pt)]
  #for f in d.roof.filter(f => f.grid.len() > 0) [
    == Serial numbers, #f.name
    From the ridge down, each row from left to right. A sticker goes into an empty place.
    #let most = calc.min(8, calc.max(..f.grid.map(row => row.len())))
    #for row in f.grid [
      #block(breakable: false, above: 3pt, below: 3pt)[
        #grid(columns: (1fr,) * most, gutter: 2pt,
          ..row.map(m => box(width: 100%, height: 15mm, inset: 2pt, stroke: 0.5pt + rgb("#8A949C"))[
            #text(size: 7pt, weight: "bold", m.name) \
            #text(size: 6pt, font: "Atkinson Hyperlegible Mono", m.serial)
          ]))
      ]
    ]
  ]
]

#let p = d.protection
#for i in range(p.diagrams) [
  #page(flipped: true, margin: 6mm, header: none, footer: none)[
    #image("one-line-" + str(i) + ".svg", width: 100%, height: 100%, fit: "contain", alt: "One-line diagram, sheet " + str(i + 1) + ": every string and branch on its lane from the array through boxes, devices and inverter to the panel and the grid")
  ]
]

= Protection
#if p.devices.len() == 0 [No device is planned yet.] else [
  #table(columns: (auto, auto, 1fr, auto, auto, auto), align: (left, left, left, left, right, left),
    head[In][Device][What it is][Data sheet][Rating][Feeds],
    ..p.devices.map(x => (strong(x.node), x.device, x.what, x.sheet, mono(x.amps), if x.feeds == none [–] else [#x.feeds])).flatten()
  )
]
#for (i, node) in p.enclosures.enumerate() [
  #block(breakable: false)[
    == Enclosure #node
    #image("enclosure-" + str(i) + ".svg", width: 100%, height: 45mm, fit: "contain", alt: "Enclosure " + node + " to scale: its rails with the devices on them, each as wide as it is")
  ]
]
#for b in p.boards [
  == Panel #b.node
  Busbar #mono(b.bus), main #mono(b.main). #if b.feeds != "" [Fed by #b.feeds. ]#if b.loads != "" [Loads: #b.loads A.]
  #if b.choices.len() > 0 [
    #table(columns: (1fr, auto, auto), align: (left, left, left),
      head[Way to bring PV onto it][Verdict][],
      ..b.choices.map(c => ([#c.title#if c.built [ *as it stands*]], verdict(c.verdict), if c.outage [utility switches off] else [])).flatten()
    )
  ]
]

= What the parties ask for
#if p.demands.len() == 0 [No demand is entered.] else [
  #table(columns: (auto, 1fr, 1fr, auto), align: (left, left, left, left),
    head[Party][Demand][Who said it, when, where it is written][Verdict],
    ..p.demands.map(x => (x.party, [#x.title#if x.text != "" [ \ #text(size: 7pt, x.text)]], (x.by, x.on, x.evidence).filter(t => t != "").join(", ", default: "not said"), verdict(x.verdict))).flatten()
  )
]

= Earth
#if p.bonding.len() == 0 [Nothing is planned yet.] else [
  #table(columns: (auto, auto, 1fr, auto), align: (left, left, left, left),
    head[Part][What it is][Its way to the electrode][Verdict],
    ..p.bonding.map(x => (strong(x.part), x.kind, if x.path == "" [none] else [#x.path], verdict(x.verdict))).flatten()
  )
]
#if p.joints.len() > 0 [
  #table(columns: (1fr, 1fr, auto, auto, auto), align: (left, left, left, right, left),
    head[From][To][By][Size][],
    ..p.joints.map(x => (x.from, x.to, x.by, mono(x.size), x.how)).flatten()
  )
]

= Labels
#if p.labels.len() == 0 [Nothing to label yet.] else [
  #table(columns: (1fr, 1fr, auto, auto, auto), align: (left, left, right, right, left),
    head[Place][Text][Pieces][Size][],
    ..p.labels.map(x => (x.place, x.text, mono[#x.n], mono(x.size), if x.open [open] else [#x.source])).flatten()
  )
]

= Taken by habit
#if d.assumptions.len() == 0 [Nothing.] else [
  Each is to be confirmed by who looked.
  #table(columns: (auto, 1fr, 30%), align: (left, left, left),
    head[Looked][What is taken][For],
    ..d.assumptions.map(a => (if a.by == none { box(width: 7pt, height: 7pt, stroke: 0.6pt) } else { a.by }, a.text, a.of)).flatten()
  )
]

= Data sheets
#if d.sheets.len() == 0 [None is used yet.]
#for e in d.sheets [
  == #e.name, #e.what, revision #e.revision
  #if e.demo [Made-up sample data. ]From: #e.document#if e.entered != "" [. Entered #e.entered].
  #set text(size: 8pt)
  #columns(2, gutter: 14pt)[
    #for f in e.fields [#grid(columns: (1fr, auto), column-gutter: 6pt, inset: (y: 1.5pt), text(fill: rgb("#4B5864"), f.title), mono(size: 8pt, f.value))]
  ]
]

= Readings
#d.readings_said
#if d.readings.len() == 0 [No reading was taken yet.] else [
  #table(columns: (auto, auto, auto, auto, auto, auto, auto, auto), align: (left, left, left, right, left, right, right, left),
    head[String][When][Who][Light][Warmth][Read][Expected][Verdict],
    ..d.readings.map(r => (strong(r.string), r.at, r.by, mono(r.light), r.warmth, mono(if r.voc != "–" { r.voc } else { r.isc }), mono(r.expected),
      [#verdict(r.verdict)#if r.superseded [ (read again)]])).flatten()
  )
  #for r in d.readings.filter(r => r.withdrawn != "") [*#r.string*, #r.at: #r.withdrawn \ ]
  #for r in d.readings.filter(r => r.verdict != "Holds" and r.cause != "") [*#r.string*, #r.at: #r.cause \ ]
]

= Safety and code
#for line in d.safety [- #line]
#v(6pt)
#d.notice

