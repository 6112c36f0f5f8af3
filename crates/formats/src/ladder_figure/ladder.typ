// A ladder on one page as long as it needs. Everything that a person wrote comes as data and is set as text, never read as markup.
#let d = json("data.json")
#let raises = rgb("#12616a")
#let lowers = rgb("#7d2a52")
#let muted = rgb("#55605f")
#let hair = 0.4pt + rgb("#b9b3a3")
#let warn = rgb("#7a5200")

#set document(title: d.title)
#set page(width: 190mm, height: auto, margin: 8mm, fill: white)
#set text(font: "Libertinus Serif", size: 8.5pt, lang: "en", region: "gb", number-width: "tabular")
#set par(leading: 0.45em)

#let quiet(body) = text(fill: muted, body)
#let sample = box(baseline: 1.5pt, radius: 1.5pt, stroke: 0.5pt + warn, inset: (x: 2pt, y: 1.5pt), text(size: 6pt, fill: warn, weight: "bold")[sample data])
#let plot = 84mm
#let height = 10mm
#let x(share) = 3mm + share * (plot - 6mm)

// The positive result's bar has round ends and lies above, the negative one's square ends and below, as on the screen.
#let bar(of, ahead, index, thin) = {
  if of != none {
    let colour = (raises, lowers).at(index)
    let middle = (3mm, 7mm).at(index)
    let (low, point, high) = of.at.map(x)
    let stroke = if thin { (paint: colour, thickness: 0.6pt, dash: "dashed") } else { none }
    place(dx: low, dy: middle - 1.1mm, rect(width: calc.max(high - low, 0.4mm), height: 2.2mm, radius: (1.1mm, 0mm).at(index), fill: colour.lighten(if thin { 85% } else { 60% }), stroke: stroke))
    place(dx: point - 0.25mm, dy: middle - 1.6mm, rect(width: 0.5mm, height: 3.2mm, fill: colour))
    if of.cut.at(0) { place(dx: low, dy: middle, place(polygon(fill: colour, (0mm, -1.2mm), (-1.4mm, 0mm), (0mm, 1.2mm)))) }
    if of.cut.at(1) { place(dx: high, dy: middle, place(polygon(fill: colour, (0mm, -1.2mm), (1.4mm, 0mm), (0mm, 1.2mm)))) }
    if ahead != none {
      let (from, _, to) = ahead.at.map(x)
      place(dx: from, dy: middle + 1.6mm, line(length: to - from, stroke: 0.7pt + colour))
      for (end, cut) in ((from, ahead.cut.at(0)), (to, ahead.cut.at(1))) {
        if not cut { place(dx: end, dy: middle + 1.1mm, line(length: 1mm, angle: 90deg, stroke: 0.7pt + colour)) }
      }
    }
  }
}
#let rung(test) = box(width: plot, height: height, {
  for (at, _) in d.ticks { place(dx: x(at), line(length: height, angle: 90deg, stroke: hair)) }
  place(dx: x(d.one), line(length: height, angle: 90deg, stroke: 0.8pt))
  for index in (0, 1) { bar(test.bars.at(index), test.ahead.at(index), index, test.thin) }
  if test.bars.all(it => it == none) {
    place(dx: x(d.one) - 14mm, dy: 2.8mm, box(width: 28mm, height: 4.4mm, fill: white, stroke: (paint: muted, thickness: 0.6pt, dash: "dashed"), align(center + horizon, quiet[#if test.studies > 0 [not estimable] else if test.looked_for [nothing usable] else [not studied]])))
  }
})
#let axis = box(width: plot, height: 8mm, {
  place(dx: x(d.one) - 42mm, dy: 0mm, box(width: 40mm, align(right, text(size: 7pt, fill: lowers)[← a negative result lowers])))
  place(dx: x(d.one) + 2mm, dy: 0mm, box(width: 40mm, text(size: 7pt, fill: raises)[a positive result raises →]))
  for (at, label) in d.ticks { place(dx: x(at) - 5mm, dy: 4.4mm, box(width: 10mm, align(center, text(size: 6.5pt, quiet(label))))) }
})
#let figure-of(of, ahead, colour) = if of == none { quiet[–] } else {
  text(fill: colour, strong(of.point))
  linebreak()
  text(size: 7pt, quiet(of.interval))
  if ahead != none { linebreak(); text(size: 7pt, quiet[⟨#ahead.interval⟩]) }
}

#block(text(size: 12pt, weight: "bold", d.title) + if d.sample { h(5pt); sample })
#v(2pt)
#table(
  columns: (1fr, plot, auto, auto),
  align: (left + horizon, left, right + horizon, right + horizon),
  inset: (x: 3pt, y: 1.5pt),
  stroke: (x, y) => if y > 0 { (top: hair) },
  strong[Test], axis, text(fill: lowers, strong[LR−]), text(fill: raises, strong[LR+]),
  ..for group in d.groups {
    if group.title != "" { (table.cell(colspan: 4, inset: (x: 3pt, top: 7pt, bottom: 2pt), text(size: 9.5pt, strong(group.title))),) }
    for test in group.tests {
      (
        { strong(test.name); linebreak(); text(size: 7pt, quiet[#if test.looked_for [evidence looked for, nothing usable] else if test.studies == 0 [not studied] else if test.studies == 1 [1 study] else [#test.studies studies]]); if test.sample { h(3pt); sample } },
        rung(test),
        figure-of(test.bars.at(1), test.ahead.at(1), lowers),
        figure-of(test.bars.at(0), test.ahead.at(0), raises),
      )
    }
  },
)
#v(3pt)
#text(size: 7.5pt, quiet[
  Likelihood ratios with 95 % intervals on a log scale; dashed outlines: fewer than four studies.
  #if d.ahead [Thin lines and ⟨ ⟩: where the true ratio of the next study is expected with 95 %.]
  Printed #d.printed. Educational and decision-support material; not a diagnosis. Local protocols rule.
])
