// A4 sheet to teach from. Everything that a person wrote comes as data and is set as text, never read as markup.
#let d = json("data.json")
#let s = d.sheet
#let w = d.words
#let size = d.size * 1pt
#let raises = rgb("#12616a")
#let lowers = rgb("#7d2a52")
#let alarm = rgb("#9b1c1c")
#let muted = rgb("#55605f")
#let hair = 0.4pt + rgb("#b9b3a3")

#let caution = "Educational and decision-support material for licensed professionals and supervised learners; not for use by patients or unsupervised learners. A result shifts a probability; it is not a diagnosis. Ask permission and explain first. Red flags and stop rules come before any test. Local protocols and your scope of practice rule."

#set document(title: s.name)
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
        #s.name, version #d.version, #lower(w.status.at(d.status)) \
        printed #d.printed, page #counter(page).display() of #counter(page).final().first()
      ],
    )
  },
)
#set text(font: "Libertinus Serif", size: size, lang: "en", region: "gb")
#set par(leading: 0.5em, spacing: 0.62em)
#set list(indent: 0pt, body-indent: 4pt, spacing: 0.5em, marker: text(fill: muted)[•])
#set enum(indent: 0pt, body-indent: 5pt, spacing: 0.5em)
#show heading: set text(size: 1.06 * size)
#show heading: set block(above: 1em, below: 0.45em)

#let some(value) = value != none and value != "" and value != ()
#let prose(value) = value.split("\n").map(part => [#part]).join(linebreak())
#let whole(n) = if n < 1000 { str(n) } else { str(calc.quo(n, 1000)) + "\u{202f}" + ("000" + str(calc.rem(n, 1000))).slice(-3) }
#let num(value) = if calc.fract(value) == 0 { str(int(value)) } else { str(value) }
#let quiet(body) = text(fill: muted, body)
#let detail(label, value) = if some(value) {
  linebreak()
  text(size: 0.92 * size, quiet[_#label _ #prose(value)])
}
#let section(title, body) = block(width: 100%, {
  heading(level: 2, title)
  body
})

#let ladder-width = 84mm
// The strip: negative result below with square ends, positive result above with round ends, so that they are told apart
// on a black-and-white copy.
#let ladder(figures) = {
  let span = (calc.ln(0.02), calc.ln(50.0))
  let width = ladder-width
  let x(log) = (calc.clamp(log, ..span) - span.at(0)) / (span.at(1) - span.at(0)) * width
  let bar(which, y, colour, radius) = if which != none {
    let (low, point, high) = which.at
    place(dx: x(low), dy: y - 1.5mm, rect(
      width: calc.max(x(high) - x(low), 0.6mm), height: 3mm, radius: radius, fill: colour.lighten(62%), stroke: none,
    ))
    place(dx: x(point) - 0.4mm, dy: y - 2.3mm, rect(width: 0.8mm, height: 4.6mm, fill: colour, stroke: none))
  }
  box(width: width, height: 20mm, {
    for tick in (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0) {
      let at = x(calc.ln(tick))
      place(dx: at, line(
        length: 12.4mm, angle: 90deg, stroke: if tick == 1.0 { 0.9pt + black } else { hair },
      ))
      place(dx: at - 5mm, dy: 13.2mm, box(width: 10mm, align(center, text(size: 7pt, quiet(num(tick))))))
    }
    place(dy: 17mm, box(width: width, align(center, text(size: 7pt, quiet[lowers ← likelihood ratio, log scale → raises]))))
    bar(figures.positive, 3.4mm, raises, 1.5mm)
    bar(figures.negative, 9.2mm, lowers, 0mm)
  })
}

#let result(which, title, colour, before) = (
  text(fill: colour, weight: "bold", title),
  if which == none [not estimable] else [LR~#strong(which.point) #box(quiet[(#which.interval)])],
  if which == none or which.after == none [] else [
    #before → #box(text(fill: colour, weight: "bold", which.after.point)) #box(quiet[(#which.after.interval)])
  ],
)

#let limit(it) = if it.kind == "none-correct" [
  Not one correct result among #str(it.n) people; up to #it.upper are still compatible (95 %).
] else if it.arm == "diseased" [
  Nobody of #str(it.n) was missed. Up to #it.upper missed cases are still compatible (95 %).
] else [
  0 of #str(it.n) were false positives. Up to #it.upper false positives are still compatible (95 %).
]

#let figures(f) = block(width: 100%, stroke: (top: hair, bottom: hair), inset: (y: 6pt), {
  if f == none [No study is entered: what a result is worth is unknown, which is not the same as useless.] else {
    grid(
      columns: (ladder-width, 1fr),
      column-gutter: 9mm,
      ladder(f),
      {
        grid(
          columns: (auto, auto, 1fr),
          column-gutter: 10pt,
          row-gutter: 6pt,
          ..result(f.positive, "Positive", raises, f.before),
          ..result(f.negative, "Negative", lowers, f.before),
        )
        v(2pt)
        set text(size: 0.9 * size)
        let shares = (("Sensitivity", f.sensitivity), ("specificity", f.specificity)).filter(it => it.at(1) != none)
        shares.map(it => [#it.at(0) #it.at(1).point #quiet[(#it.at(1).interval)]]).join(", ")
        linebreak()
        quiet[#whole(f.studies) #if f.studies == 1 [study] else [studies], #whole(f.people) people; intervals #str(int(f.level))\u{202f}%]
      },
    )
    if not f.converged { parbreak(); text(fill: alarm, weight: "bold")[The summary estimate did not converge: do not use it.] }
    for it in f.limits { parbreak(); text(size: 0.9 * size, weight: "bold", limit(it)) }
  }
})

#let words-of(table, code) = if code == none { none } else { w.at(table).at(code) }
#let joined(parts, by) = parts.filter(some).join(by)
// The interface says the same in web/src/areas/catalogue/sheetSentences.ts.
#let soon(hours) = if hours == none { none } else if hours == 0 { "at once" } else if hours >= 48 and calc.rem(hours, 24) == 0 {
  "within " + num(hours / 24) + " days"
} else if hours == 1 { "within 1 hour" } else { "within " + num(hours) + " hours" }
#let listed(rows) = {
  let rows = rows.filter(row => some(row.at(1)))
  if rows.len() > 0 {
    grid(columns: (auto, 1fr), column-gutter: 6pt, row-gutter: 0.5em, ..rows.map(row => (quiet(row.at(0)), prose(row.at(1)))).flatten())
  }
}

#let contact(it) = {
  let tasks = it.tasks.map(task => w.contact_tasks.at(task)).join(", ")
  let place = joined((
    if it.with != none { w.contact_parts.at(it.with) + ":" },
    it.placement.trim(".", at: end),
    if some(tasks) { "(" + tasks + ")" },
  ), " ")
  joined((
    place,
    if it.locks != none { "locks the " + w.joints.at(it.locks) },
    if some(it.verified) { "check of the lock: " + it.verified.trim(".", at: end) },
  ), "; ")
}

#let facts(variant) = {
  let joints = variant.joints.map(range => {
    let ends = (range.from, range.to).filter(it => it != none).map(num).dedup()
    joined((
      words-of("joints", range.joint),
      words-of("motions", range.motion),
      if ends.len() > 0 { ends.join(" to ") + "°" },
      if range.individual { "(found individually)" },
    ), " ")
  })
  let stance = variant.stance
  listed((
    ("Position", variant.patient_position),
    ("Sides", joined((
      words-of("sides_tested", stance.sides),
      if stance.moved != none { w.sides.at(stance.moved) + " moved" },
      if stance.read != none { w.sides.at(stance.read) + " read" },
      if stance.one_leg { "standing on one leg" },
    ), "; ")),
    ("Support", stance.fall_support),
    ("Examiner", variant.examiner_position),
    ("Contacts", variant.contacts.filter(it => not it.forbidden).map(contact).join("\n")),
    ("Do not touch", variant.contacts.filter(it => it.forbidden).map(it => it.placement.trim(".", at: end) + " → " + it.effect).join("\n")),
    ("Joints", joints.join("; ")),
    ("Force through", variant.relays.map(it => w.joints.at(it.joint) + ": " + it.check).join("\n")),
    ("Equipment", variant.equipment.map(it => it.name + if some(it.reason) { " (" + it.reason + ")" }).join(", ")),
    ("Viewpoint", variant.viewpoint),
  ))
  let before = variant.preparation
  listed((
    ("Hands", if before.hand_hygiene { "clean them first" }),
    ("Permission", before.permission),
    ("Say", variant.patient_script),
    ("Will feel", before.sensation),
    ("Show first", variant.demonstration),
    ("Ask", before.question),
  ))
}

#let measuring(it) = listed((
  ("Axis", it.axis),
  ("Fixed arm", it.fixed_arm),
  ("Moving arm", it.moving_arm),
  ("Landmarks", it.landmarks),
  ("Start", it.start),
  ("Force", if it.force != none { num(it.force) + " N" }),
  ("Same at retest", it.setup.map(set-up => joined((
    set-up.name,
    if set-up.value != none { num(set-up.value) },
    set-up.unit,
  ), " ")).join("; ")),
))

#let step(it, forces) = {
  let read = it.reads.map(what => w.read_at_events.at(what)).join(", ")
  let notes = (
    it.phase,
    if forces.push != none and forces.effort != none {
      "patient tries " + w.motions.at(forces.effort) + ", examiner pushes into " + w.motions.at(forces.push)
    },
    if it.hold_seconds != none { "hold " + num(it.hold_seconds) + " s" },
    if it.repetitions != none { num(it.repetitions) + " times" },
    if it.degrees != none { num(it.degrees) + "°" + if it.degrees_to != none { " to " + num(it.degrees_to) + "°" } },
    if it.until != none {
      "until: " + w.step_events.at(it.until) + if some(it.until_detail) { " (" + it.until_detail + ")" } + if some(read) { "; read: " + read }
    },
    if it.optional { "may be unpleasant: optional step" },
  ).filter(some)
  prose(it.text)
  if notes.len() > 0 { quiet(" (" + notes.join(", ") + ")") }
}

#let criterion(it) = {
  let arc = (it.arc_from, it.arc_to).filter(angle => angle != none).map(num)
  let notes = (
    if it.end_feel != none { "end-feel " + w.end_feels.at(it.end_feel) },
    words-of("range_parts", it.part_of_range),
    if arc.len() > 0 { arc.join(" to ") + "°" },
    words-of("displacements", it.displacement),
    if it.attempts != none and it.attempts > 1 { "only after " + num(it.attempts) + " attempts" },
    if some(it.reverses) { "reverses with the stage: " + it.reverses },
  ).filter(some)
  (if some(it.phase) { it.phase + ": " }) + it.text + if notes.len() > 0 { " (" + notes.join("; ") + ")" }
}

#let level(it, unit) = {
  let range = if it.from != none and it.to != none { num(it.from) + " to below " + num(it.to) } else if it.from != none {
    num(it.from) + " or more"
  } else if it.to != none { "below " + num(it.to) }
  it.name + if range != none { ", " + joined((range, unit), " ") } + " (" + lower(w.outcomes.at(it.outcome)) + ")"
}

// Which of several conditions a part of the sheet is about.
#let about(condition) = if some(condition) { ", for " + condition }

#let how(variant) = {
  facts(variant)
  if variant.steps.len() > 0 { enum(..variant.steps.zip(d.derived.steps.first()).map(it => step(..it))) }
  measuring(variant.measuring)
  for outcome in ("positive", "equivocal", "negative", "not_interpretable") {
    let word = w.outcomes.at(outcome)
    let mine = variant.criteria.filter(it => it.outcome == outcome)
    if mine.len() > 0 {
      par[*#word:* #mine.map(criterion).join("; ")]
    }
  }
  if variant.grading.levels.len() > 0 {
    par[*Levels of #variant.grading.name:* #variant.grading.levels.map(it => level(it, variant.grading.unit)).join("; ")]
  }
  if variant.inability.len() > 0 {
    par[*Unable because of* #variant.inability.map(it => w.inability_reasons.at(it.reason) + ": " + lower(w.outcomes.at(it.outcome)) + if some(it.note) { " (" + it.note + ")" }).join("; ")]
  }
  if variant.targets.len() > 0 {
    par[#quiet[Structures loaded:] #variant.targets.map(it => {
      it.structure + if it.role != none { " (" + w.load_roles.at(it.role) + ")" } + if some(it.phase) { ", " + it.phase } + about(it.condition)
    }).join("; ")]
  }
}

#let when(row, measure) = {
  let mine = row.conditions.filter(it => it.measure == measure.name)
  if mine.len() == 0 { quiet[any] } else {
    mine.map(it => if it.choices.len() > 0 { it.choices.join(" or ") } else {
      (
        if it.comparison != none { w.comparisons.at(it.comparison) },
        if it.value != none { num(it.value) },
        measure.unit,
      ).filter(some).join(" ")
    }).join(", ")
  }
}

#let readings(table-of) = {
  set text(size: 0.92 * size)
  table(
    columns: table-of.measures.map(_ => auto) + (1.3fr, 1fr),
    stroke: (x, y) => (bottom: hair),
    inset: (x: 4pt, y: 3pt),
    table.header(..(table-of.measures.map(it => it.name) + ("Interpretation", "Next step")).map(it => strong(it))),
    ..table-of.rows.map(row => (
      ..table-of.measures.map(measure => when(row, measure)),
      strong(row.reading) + if some(row.grade) { quiet(" (" + row.grade + ")") } + if some(row.condition) { quiet(" (for " + row.condition + ")") },
      prose(row.next_step) + if row.urgent { text(fill: alarm, weight: "bold")[ Refer #if row.within_hours == none [promptly] else [#soon(row.within_hours)]] },
    )).flatten(),
  )
}

#let guarded(body) = block(stroke: (left: 2pt + alarm), inset: (left: 6pt), body)

#let right-hand = {
  if s.urgent.len() > 0 {
    section("Refer promptly", guarded(list(..s.urgent.map(it => {
      strong(prose(it.finding))
      " "
      prose(it.action)
      if it.within_hours != none [ *#soon(it.within_hours)*]
    }))))
  }
  section("Cautions", guarded(if s.cautions.len() == 0 [
    No caution has been entered yet. That does not mean that there is none.
  ] else {
    list(..s.cautions.map(it => {
      if it.kind != none [*#w.caution_kinds.at(it.kind):* ]
      prose(it.text)
      detail("Ask or look:", it.screening + if it.unsafe_answers.len() > 0 {
        " Unsafe answer: " + it.unsafe_answers.map(answer => w.answers.at(answer)).join(" or ") + "."
      })
      detail(
        if it.kind == "contraindication" { "Instead:" } else { "Then:" },
        joined((it.instead, soon(it.within_hours)), " "),
      )
      detail("Holds for:", joined((
        if it.scope == "joint" { "tests that load the " + w.joints.at(it.joint) } else { words-of("caution_scopes", it.scope) },
        if some(it.variant) { "only the variant “" + it.variant + "”" },
      ), "; "))
    }))
  }))
  if s.pitfalls.len() > 0 {
    section("Pitfalls", list(..s.pitfalls.zip(d.derived.pitfalls).map(((it, follows)) => {
      prose(it.text)
      if follows.direction != none [ *→ #w.biases.at(follows.direction)*]
      detail("You see:", it.cue)
      detail("Remedy:", it.remedy)
      if follows.spoils_negative { linebreak(); text(size: 0.92 * size, weight: "bold")[With this, a negative result is not interpretable.] }
    })))
  }
  if s.alternatives.len() > 0 {
    section("Alternatives when it cannot be done as taught (the cautions above hold for these too)", list(..s.alternatives.map(it => [#prose(it.situation) → #prose(it.instead)])))
  }
  let asks = (
    if s.burden.irritation != none { w.irritation.at(int(calc.round(s.burden.irritation))) },
    if s.burden.tries != none { if s.burden.tries == 1 { "one valid attempt" } else { num(s.burden.tries) + " valid attempts" } },
    if s.burden.minutes != none { num(s.burden.minutes) + " min" },
    if s.burden.hands != none { if s.burden.hands == 0 { "no hand" } else if s.burden.hands == 1 { "one hand" } else { num(s.burden.hands) + " hands" } },
  ).filter(some)
  if asks.len() > 0 { par[#quiet[Burden:] #asks.join(", ")] }
  if s.norms.len() > 0 {
    section("Normal values", list(..s.norms.map(it => {
      let ages = (it.age_from, it.age_to).map(age => if age == none { "…" } else { num(age) })
      let who = (
        if it.kind == "side_difference" { "difference between sides" } else if it.kind == "sign" { "normal amount" },
        if it.sex != none { w.sexes.at(it.sex) },
        if it.age_from != none or it.age_to != none { "age " + ages.join(" to ") },
      ).filter(some)
      let ends = (it.low, it.high).map(end => if end == none { "…" } else { num(end) })
      let range = if it.low != none or it.high != none { joined((ends.join(" to "), it.unit), " ") }
      [#(it.measure, ..who).join(", "): *#joined((range, it.note), "; ")* #quiet(it.source)]
    })))
  }
  if s.repeats.len() > 0 {
    section("Repeat a negative or impossible test", list(..s.repeats.map(it => joined((
      (if it.when == "after_days" { "after " + num(it.days) + " days" } else { w.repeat_when.at(it.when) }) + ".",
      it.reason,
      if some(it.keep_same) { "Keep the same: " + it.keep_same },
    ), " "))))
  }
  if s.retest.detectable_change != none or some(s.retest.keep_same) {
    section("Retest", {
      if s.retest.detectable_change != none [Minimal detectable change: #num(s.retest.detectable_change) #s.retest.unit. A smaller difference may be measurement error. ]
      if some(s.retest.keep_same) [#quiet[Keep the same:] #prose(s.retest.keep_same)]
    })
  }
}

#let left-hand = {
  section("Positive when", text(size: 1.08 * size, prose(s.positive_finding)))
  if s.indications.len() > 0 {
    section("Indications", list(..s.indications.map(it => {
      [*#w.indication_kinds.at(it.kind):* #prose(it.text)]
      if some(it.variant) { quiet(" (only the variant “" + it.variant + "”)") }
      detail("Why:", it.reason)
    })))
  }
  if s.variants.len() > 0 {
    section(if s.variants.len() == 1 [Procedure] else [Procedure: #s.variants.first().name], how(s.variants.first()))
  }
  if s.variants.len() > 1 {
    section("Other variants", list(..s.variants.slice(1).map(it => [*#it.name*#if some(it.difference) [: #prose(it.difference)] #prose(it.effect)])))
  }
}

#grid(
  columns: (1fr, auto),
  column-gutter: 8mm,
  {
    text(size: 1.75 * size, weight: "bold", s.name)
    linebreak()
    quiet(w.regions.at(s.region) + ". " + if s.basis != none { "Basic examination: " + w.basis.at(s.basis) + ". " } + w.purposes.at(s.purpose) + ". Target condition: " + s.condition + ".")
    if s.other_conditions.len() > 0 {
      linebreak()
      quiet("Also shows: " + s.other_conditions.join(", ") + ". Figures: " + d.condition + ".")
    }
    if s.aliases.len() > 0 { linebreak(); quiet[Also called: #s.aliases.join(", ")] }
  },
  {
    if d.sample { block(stroke: 0.8pt + rgb("#7a4d00"), inset: 4pt, text(fill: rgb("#7a4d00"), weight: "bold")[SAMPLE DATA]) }
    if d.status != "published" { block(inset: (y: 2pt), quiet[#w.status.at(d.status): not signed off]) }
  },
)

#figures(d.figures)
#if d.sample { text(size: 0.9 * size, fill: rgb("#7a4d00"))[Made up for demonstration. Never use it for a patient.] }

#grid(columns: (1.12fr, 1fr), column-gutter: 8mm, left-hand, right-hand)

#if s.interpretation.rows.len() > 0 { section("Combined findings", readings(s.interpretation)) }
#if s.searches.len() > 0 {
  section("Evidence was looked for, nothing usable", list(..s.searches.map(it => joined((
    it.when + ", " + it.place + ".",
    it.found,
    "Not usable because: " + it.unusable,
  ), " "))))
}
#if d.conflicts.len() > 0 {
  section("Conflicting teaching", list(..d.conflicts.map(it => {
    prose(it.question)
    for (place, claim) in it.claims.enumerate() {
      linebreak()
      if it.verdict == "favours" and it.favours == place [*Taught here:* ]
      prose(claim.claim)
      quiet(" (" + joined((claim.source, claim.evidence), "; ") + ")")
    }
    if it.verdict == "open" [ *No verdict yet.*]
    if it.verdict == "neither" [ *None of these is taught here.*]
    detail("Reason:", it.reason)
  })))
}
#if s.sources.len() > 0 { section("Sources", text(size: 0.88 * size, list(..s.sources.map(prose)))) }
