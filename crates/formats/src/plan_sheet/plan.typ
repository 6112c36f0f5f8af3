// A4 plan of an examination, to tick beside the couch. Everything that a person wrote comes as data and is set as text, never read as markup.
#let d = json("data.json")
#let w = d.words
#let size = d.size * 1pt
#let alarm = rgb("#9b1c1c")
#let muted = rgb("#55605f")
#let hair = 0.4pt + rgb("#b9b3a3")

#let caution = "Educational and decision-support material for licensed professionals and supervised learners; not for use by patients or unsupervised learners. A result shifts a probability; it is not a diagnosis. Ask permission and explain first. Red flags and stop rules come before any test. Local protocols and your scope of practice rule."

#set document(title: d.title)
#set page(
  paper: "a4",
  margin: (x: 15mm, top: 13mm, bottom: 21mm),
  footer: context {
    set text(size: 7pt, fill: muted)
    grid(
      columns: (1fr, auto),
      column-gutter: 10mm,
      inset: (top: 4pt),
      stroke: (top: hair),
      par(leading: 0.45em, caution),
      align(right)[
        #d.title, version #d.version, #lower(w.status.at(d.status)) \
        printed #d.printed, page #counter(page).display() of #counter(page).final().first()
      ],
    )
  },
)
#set text(font: "Libertinus Serif", size: size, lang: "en", region: "gb")
#set par(leading: 0.5em, spacing: 0.62em)
#show heading: set text(size: 1.06 * size)
#show heading: set block(above: 1em, below: 0.45em)

#let some(value) = value != none and value != "" and value != ()
#let prose(value) = value.split("\n").map(part => [#part]).join(linebreak())
#let num(value) = if calc.fract(value) == 0 { str(int(value)) } else { str(value) }
#let quiet(body) = text(fill: muted, size: 0.92 * size, body)
#let tick = box(baseline: 15%, rect(width: 0.85em, height: 0.85em, stroke: 0.6pt + black))
// An unsafe answer has a thick frame, which a black-and-white copy keeps.
#let answer(label, is-unsafe) = box[#box(
  baseline: 15%, rect(width: 0.85em, height: 0.85em, stroke: if is-unsafe { 1.6pt + alarm } else { 0.6pt + black }),
) #label]

#text(size: 1.7 * size, weight: "bold", d.title) #if d.sample [ #box(
  inset: (x: 4pt, y: 1.5pt), stroke: (dash: "dashed", paint: rgb("#8a4b00"), thickness: 0.6pt), radius: 2pt,
  text(size: 0.85 * size, fill: rgb("#8a4b00"), weight: "bold")[sample data],
)]

#quiet[#upper(d.region.slice(0, 1))#d.region.slice(1)#if some(d.setting) [ · #w.care_settings.at(d.setting)]#if some(d.course) [ · #w.courses.at(d.course)]#if some(d.state) [ · #w.wakefulness.at(d.state)] · #if d.affected_first [affected side first] else [sound side first]]

#if some(d.note) { prose(d.note) }

#for q in d.questions [
  #block(above: 0.5em, below: 0.3em)[*#q.condition*: before testing #q.pre_test, reassure below #q.reassure#for it in q.between [, #w.actions.at(it.action) from #it.from], #w.actions.at(q.above) above #q.treat.]
]

#if d.must_not_miss.len() > 0 [
  #block(above: 0.5em, below: 0.3em)[*Not finished before asked about:* #for it in d.must_not_miss [#tick~#it #h(0.6em)]]
]

#if d.asked.len() > 0 {
  heading(level: 2)[First: ask and look. A thick box takes tests out; an open one keeps them locked.]
  for it in d.asked {
    block(width: 100%, breakable: false, above: 0.4em, below: 0.4em, inset: (bottom: 3pt), stroke: (bottom: hair), grid(
      columns: (1fr, auto),
      column-gutter: 6mm,
      [
        #it.question #if some(it.help) { quiet(it.help) } #linebreak()
        #quiet[#if it.scope == "examination" [#text(fill: alarm)[*stops the examination*]] else [test #it.tests.map(str).join(", ")]#if it.about.len() > 0 [ · #it.about.join("; ")]]
      ],
      [#answer("yes", it.unsafe.at(0)) #h(2mm) #answer("no", it.unsafe.at(1)) #h(2mm) #answer("not known", it.unsafe.at(2))],
    ))
  }
}

#let side(name) = align(center, {
  quiet(name)
  grid(
    columns: 4 * (6mm,),
    row-gutter: 1pt,
    inset: (top: 2pt),
    ..4 * (tick,),
    ..("+", "±", "−", "n. i.").map(label => text(size: 6.5pt, fill: muted, label)),
  )
})
#for group in d.groups {
  heading(level: 2, if group.position == none [Position not given] else {
    let words = w.positions.at(group.position)
    upper(words.slice(0, 1)) + words.slice(1)
  })
  for t in group.tests {
    block(width: 100%, breakable: false, above: 0.45em, below: 0.45em, inset: (bottom: 3pt), stroke: (bottom: hair), grid(
      columns: (7mm, 1fr, 27mm, 27mm),
      column-gutter: 2mm,
      strong(str(t.number)),
      {
        strong(if t.name == "" [A test that you cannot see] else { t.name })
        if some(t.variant) [ · #t.variant]
        if t.optional { quiet[ · only where it is asked for] }
        if some(t.reason) { linebreak(); prose(t.reason) }
        let marks = ()
        if t.one_attempt { marks.push[one valid attempt] }
        if t.irritation != none { marks.push[#w.irritation.at(int(t.irritation))] }
        if t.minutes != none { marks.push[#num(t.minutes) min] }
        if marks.len() > 0 { linebreak(); quiet(marks.join[ · ]) }
        for care in t.cares { linebreak(); [With care: #care] }
        for stop in t.stops { linebreak(); text(fill: alarm)[*Stop:* #stop] }
        for r in t.ratios {
          linebreak()
          quiet[#if r.condition != none [#r.condition: ]#if r.positive == none [LR+ not estimable] else [LR+ #r.positive.point (#r.positive.interval)], #if r.negative == none [LR− not estimable] else [LR− #r.negative.point (#r.negative.interval)]]
        }
      },
      side("right"),
      side("left"),
    ))
  }
}

#v(0.4em)
#quiet[#"+" positive, ± equivocal, − negative, n. i. not interpretable (say why). Likelihood ratios with 95 % intervals, pooled over all results of each test.]

#grid(columns: (1fr, 1fr), column-gutter: 8mm, row-gutter: 4mm, [Left out, and why: #box(width: 1fr, line(length: 100%, stroke: hair))], [Conclusion: #box(width: 1fr, line(length: 100%, stroke: hair))])
