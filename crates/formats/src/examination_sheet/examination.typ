// A4 record of an examination. Everything that a person wrote comes as data and is set as text, never read as markup.
#let d = json("data.json")
#let w = d.words
#let size = 10pt
#let alarm = rgb("#9b1c1c")
#let muted = rgb("#55605f")
#let hair = 0.4pt + rgb("#b9b3a3")

#let caution = "Educational and decision-support material for licensed professionals and supervised learners. A result shifts a probability; it is not a diagnosis. Local protocols and your scope of practice rule. This record names no patient: add nothing that does."

#set document(title: d.label)
#set page(
  paper: "a4",
  margin: (x: 16mm, top: 14mm, bottom: 22mm),
  footer: context {
    set text(size: 7pt, fill: muted)
    grid(
      columns: (1fr, auto),
      column-gutter: 10mm,
      inset: (top: 4pt),
      stroke: (top: hair),
      par(leading: 0.45em, caution),
      align(right)[
        #d.label, #d.engine \
        printed #d.printed, page #counter(page).display() of #counter(page).final().first()
      ],
    )
  },
)
#set text(font: "Libertinus Serif", size: size, lang: "en", region: "gb")
#set par(leading: 0.5em, spacing: 0.62em)
#show heading: set text(size: 1.06 * size)
#show heading: set block(above: 1.1em, below: 0.5em)

#let some(value) = value != none and value != "" and value != ()
#let prose(value) = value.split("\n").map(part => [#part]).join(linebreak())
#let quiet(body) = text(fill: muted, size: 0.92 * size, body)
#let row(..cells) = block(width: 100%, breakable: false, above: 0.4em, below: 0.4em, inset: (bottom: 3pt), stroke: (bottom: hair), grid(..cells))

#text(size: 1.7 * size, weight: "bold", d.label) #if d.sample [ #box(
  inset: (x: 4pt, y: 1.5pt), stroke: (dash: "dashed", paint: rgb("#8a4b00"), thickness: 0.6pt), radius: 2pt,
  text(size: 0.85 * size, fill: rgb("#8a4b00"), weight: "bold")[sample data],
)]

#quiet[#d.plan, version #d.plan_version · #d.region · finished #d.finished#if some(d.affected) [ · affected: #w.affected_sides.at(d.affected)]]

#if some(d.stop) [
  #block(inset: 6pt, stroke: 1pt + alarm, width: 100%)[#text(fill: alarm)[*The examination was stopped:*] #d.stop]
]

#if d.urgent.len() > 0 {
  heading(level: 2)[Urgent findings]
  for it in d.urgent {
    block(above: 0.4em, below: 0.4em)[#text(fill: alarm)[*#it.finding*] #if some(it.action) [ #it.action] #if it.done == true [*Done.*] else if it.done == false [*Not done.*] #if some(it.note) [ #prose(it.note)]]
  }
}

== Conclusion
#if d.conclusion.undecided [*Cannot be decided by this examination.* ] #prose(d.conclusion.text)

#if some(d.conclusion.action) or some(d.conclusion.next) [*Next:* #if some(d.conclusion.action) [#w.actions.at(d.conclusion.action)]#if some(d.conclusion.action) and some(d.conclusion.next) [, ]#d.conclusion.next#if some(d.conclusion.deadline) [, by #d.conclusion.deadline]#if d.conclusion.done [ (done)].]

#if some(d.conclusion.treatment) [*Treatment:* #prose(d.conclusion.treatment)]

#if some(d.conclusion.training) [*Training and work:* #prose(d.conclusion.training)]

#if d.repeats.len() > 0 {
  heading(level: 2)[To be examined again]
  for it in d.repeats {
    block(above: 0.3em, below: 0.3em)[#if some(it.test) [*#it.test*: ]#if some(it.on) [#it.on]#if some(it.on) and some(it.trigger) [, ]#it.trigger#if some(it.keep_same) [ #quiet[Keep the same: #it.keep_same]]#if it.done [ (done)]]
  }
}

== Probabilities
#for q in d.questions {
  row(
    columns: (1fr, 24mm, 45mm, 40mm),
    column-gutter: 2mm,
    strong(q.condition),
    [before #q.before],
    if q.told [after #strong(q.after) #quiet[(#q.interval)]] else { quiet[no result spoke to it] },
    if q.action == none { quiet[undecided] } else [#w.actions.at(q.action)],
  )
}
#quiet[At the end #w.examination_ends.at(d.end). Each result starts where the one before it ended, as if the tests were independent given the condition; intervals are 95 % and hold only what studies measured.]
#if d.must_not_miss.len() > 0 [
  #block(above: 0.5em)[*Must not be missed:* #d.must_not_miss.map(it => it.condition + if it.asked { " (asked about)" } else { " (not asked about)" }).join("; ")]
]

== Tests
#for t in d.tests {
  row(
    columns: (1fr, 42mm),
    column-gutter: 4mm,
    {
      strong(t.name)
      if some(t.variant) [ · #t.variant]
      if t.sheet != none { quiet[ · sheet version #t.sheet] }
      for a in t.attempts {
        linebreak()
        quiet[#if a.side != none [#w.attempt_sides.at(a.side): ]]
        a.shown
        if some(a.more) { quiet[ (#a.more)] }
      }
    },
    {
      strong(w.outcomes.at(t.outcome))
      if some(t.level) [ (#t.level)]
      if t.after_repeats { linebreak(); text(fill: alarm)[positive only after repeats] }
      if t.sound_side_too { linebreak(); text(fill: alarm)[positive on the sound side, too] }
      for r in t.ratios {
        linebreak()
        quiet[#if r.condition != none [#r.condition: ]#if r.point == none [LR not estimable] else [LR #r.point (#r.interval)]]
      }
    },
  )
}
#if d.tests.len() == 0 { quiet[No test was done.] }

#if d.left.len() > 0 {
  heading(level: 2)[Left out, and why]
  for it in d.left { block(above: 0.25em, below: 0.25em)[*#if it.name == "" [A test that the examiner could not see] else { it.name }*: #it.why] }
}

#if d.screening.len() > 0 {
  heading(level: 2)[Asked before]
  for it in d.screening { block(above: 0.25em, below: 0.25em)[#it.question #h(0.5em) *#if it.answer == none [not answered] else { w.answers.at(it.answer) }*] }
}
