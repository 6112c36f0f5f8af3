// A pool on one page as large as it needs. Everything that a person wrote comes as data and is set as text, never read as markup.
#let d = json("data.json")
#let main = rgb("#12616a")
#let other = rgb("#7d2a52")
#let muted = rgb("#55605f")
#let hair = 0.4pt + rgb("#b9b3a3")
#let warn = rgb("#7a5200")

#set document(title: d.title)
#set page(width: 190mm, height: auto, margin: 8mm, fill: white)
#set text(font: "Libertinus Serif", size: 8.5pt, lang: "en", region: "gb", number-width: "tabular")
#set par(leading: 0.45em)

#let quiet(body) = text(fill: muted, body)
#let sample = box(baseline: 1.5pt, radius: 1.5pt, stroke: 0.5pt + warn, inset: (x: 2pt, y: 1.5pt), text(size: 6pt, fill: warn, weight: "bold")[sample data])
#let plot = 34mm
#let x(share) = 1.5mm + share * (plot - 3mm)
#let height = 6mm

#let strip(share, n: none, kind: "study") = box(width: plot, height: height, {
  for mark in (0, 0.25, 0.5, 0.75, 1) { place(dx: x(mark), line(length: height, angle: 90deg, stroke: hair)) }
  if share != none {
    let (low, point, high) = share.at
    let middle = height / 2
    if kind == "study" {
      let r = calc.min(1.9, 0.55 + 0.1 * calc.sqrt(n)) * 1mm
      place(dx: x(low), dy: middle, line(length: x(high) - x(low), stroke: 0.9pt))
      place(dx: x(point) - r, dy: middle - r, circle(radius: r, fill: white, stroke: 1.1pt))
    } else if kind == "ahead" {
      place(dx: x(low), dy: middle, line(length: x(high) - x(low), stroke: (paint: main, thickness: 0.9pt, dash: "dashed")))
      for end in (low, high) { place(dx: x(end), dy: middle - 1mm, line(length: 2mm, angle: 90deg, stroke: 0.9pt + main)) }
    } else {
      place(dx: x(low), dy: middle - 1.2mm, rect(width: calc.max(x(high) - x(low), 0.4mm), height: 2.4mm, fill: main.lighten(55%)))
      place(dx: x(point) - 0.3mm, dy: middle - 2.2mm, rect(width: 0.6mm, height: 4.4mm, fill: main))
    }
  }
})
#let axis = box(width: plot, height: 3.5mm, for mark in (0, 50, 100) {
  place(dx: x(mark / 100) - 5mm, box(width: 10mm, align(center, text(size: 6.5pt, quiet(str(mark))))))
})

#let shown(share) = if share == none { quiet[not reported] } else { strong(share.text) }
#let result(row) = {
  let cells = ({ row.report; if row.sample { h(3pt); sample }; if row.differs != "" { linebreak(); text(size: 7pt, quiet(row.differs)) } },)
  for (index, share) in row.shares.enumerate() {
    let people = row.people.at(index)
    cells.push({ shown(share); if people != none { linebreak(); text(size: 7pt, quiet[#people.at(0) of #people.at(1)]) } })
    cells.push(strip(share, n: if people == none { 0 } else { people.at(1) }))
    cells.push(quiet(if row.weights.at(index) == none [–] else { row.weights.at(index) }))
  }
  cells
}
#let summary(title, shares, kind) = {
  let cells = (title,)
  for share in shares {
    cells.push(if share == none { quiet[–] } else { shown(share) })
    cells.push(strip(share, kind: kind))
    cells.push([])
  }
  cells
}

#block(text(size: 12pt, weight: "bold", d.title) + if d.sample { h(5pt); sample })
#quiet(d.condition)
#v(2pt)
#table(
  columns: (1fr, auto, plot, auto, auto, plot, auto),
  align: (left + horizon, right + horizon, left, right + horizon, right + horizon, left, right + horizon),
  inset: (x: 3pt, y: 1.5pt),
  stroke: (x, y) => if y > 1 { (top: hair) },
  strong[Report], table.cell(colspan: 2, align: center, strong[Sensitivity, %]), text(size: 7pt)[Weight],
  table.cell(colspan: 2, align: center, strong[Specificity, %]), text(size: 7pt)[Weight],
  [], [], axis, [], [], axis, [],
  ..for group in d.groups {
    if group.title != "" { (table.cell(colspan: 7, strong(group.title)),) }
    for row in group.rows { result(row) }
    if group.title != "" and group.summary != none { summary(emph[Summary: #group.title], group.summary, "summary") }
  },
  ..if d.summary != none { summary(strong[Summary of all], d.summary, "summary") },
  ..if d.ahead != none { summary([Next study], d.ahead, "ahead") },
)

#let side = 76mm
#let at(point) = (8mm + (1 - point.at(1)) * (side - 10mm), 2mm + (1 - point.at(0)) * (side - 10mm))
#let shade(index) = (black, main, other, main.lighten(25%), muted, black).at(calc.rem(index, 6))
#let outline(points, ..style) = {
  let placed = points.map(at)
  place(curve(..style, curve.move(placed.first()), ..placed.slice(1).map(it => curve.line(it)), ..if style.named().at("open", default: false) { () } else { (curve.close(),) }))
}
#let trace(points, stroke) = place(curve(stroke: stroke, curve.move(at(points.first())), ..points.slice(1).map(it => curve.line(at(it)))))
// Shapes as on the screen: circle, square, diamond, triangle up, triangle down, bar.
#let shape(index, r, fill, stroke) = {
  let corners = (
    none,
    ((-r, -r), (r, -r), (r, r), (-r, r)),
    ((0mm, -1.25 * r), (1.25 * r, 0mm), (0mm, 1.25 * r), (-1.25 * r, 0mm)),
    ((0mm, -1.15 * r), (1.15 * r, r), (-1.15 * r, r)),
    ((0mm, 1.2 * r), (-1.15 * r, -r), (1.15 * r, -r)),
    ((-1.3 * r, -0.6 * r), (1.3 * r, -0.6 * r), (1.3 * r, 0.6 * r), (-1.3 * r, 0.6 * r)),
  ).at(calc.rem(index, 6))
  if corners == none { place(dx: -r, dy: -r, circle(radius: r, fill: fill, stroke: stroke)) } else {
    place(polygon(fill: fill, stroke: stroke, ..corners))
  }
}
#let cross(colour) = for (thick, paint) in ((2.6pt, white), (1.3pt, colour)) {
  place(dx: -1.8mm, line(length: 3.6mm, stroke: thick + paint))
  place(dy: -1.8mm, line(length: 3.6mm, angle: 90deg, stroke: thick + paint))
}
#let space = box(width: side, height: side + 4mm, {
  for mark in (0, 0.2, 0.4, 0.6, 0.8, 1.0) {
    let (left, top) = at((mark, 1 - mark))
    place(dx: left, dy: 2mm, line(length: side - 10mm, angle: 90deg, stroke: hair))
    place(dx: 8mm, dy: top, line(length: side - 10mm, stroke: hair))
    place(dx: left - 5mm, dy: side - 7mm, box(width: 10mm, align(center, text(size: 6.5pt, quiet(str(int(calc.round(mark * 100))))))))
    place(dx: 0mm, dy: top - 1.2mm, box(width: 7mm, align(right, text(size: 6.5pt, quiet(str(int(calc.round(mark * 100))))))))
  }
  place(dx: 8mm, dy: side - 3mm, box(width: side - 10mm, align(center, text(size: 7.5pt)[False positives (1 − specificity), %])))
  place(dx: -3.5mm, dy: 26mm, rotate(-90deg, reflow: true, text(size: 7.5pt)[Sensitivity, %]))
  if d.roc != none {
    outline(d.roc.prediction, stroke: (paint: main, thickness: 0.8pt, dash: "dashed"))
    outline(d.roc.confidence, stroke: 0.8pt + main, fill: main.lighten(80%))
    if d.roc.curve.len() > 1 { trace(d.roc.curve, 0.9pt) }
  }
  let largest = calc.max(1, ..d.groups.map(group => group.rows.map(row => row.people.filter(it => it != none).map(it => it.at(1)).sum(default: 0))).flatten())
  for (index, group) in d.groups.enumerate() {
    for row in group.rows.filter(row => row.shares.all(it => it != none)) {
      let people = row.people.map(it => it.at(1))
      let r = (0.8 + 1.4 * calc.sqrt(people.sum() / largest)) * 1mm
      let (left, top) = at(row.shares.map(it => it.at.at(1)))
      place(dx: left, dy: top, shape(index, r, white, none))
      // Filled as far as people had the condition.
      let filled = 2 * r * people.at(0) / people.sum()
      place(dx: left, dy: top, place(dx: -1.3 * r, dy: r - filled, box(width: 2.6 * r, height: filled, clip: true, place(dx: 1.3 * r, dy: filled - r, shape(index, r, shade(index).lighten(45%), none)))))
      place(dx: left, dy: top, shape(index, r, none, 0.8pt + shade(index)))
    }
  }
  if d.compared {
    for (index, group) in d.groups.enumerate() {
      if group.point != none { let (left, top) = at(group.point); place(dx: left, dy: top, cross(shade(index))) }
    }
  } else if d.roc != none { let (left, top) = at(d.roc.summary); place(dx: left, dy: top, cross(black)) }
})

#v(4pt)
#grid(
  columns: (side + 4mm, 1fr),
  column-gutter: 8mm,
  space,
  {
    set text(size: 8pt)
    if d.ratios != none {
      let (positive, negative) = d.ratios
      if positive != none [LR+ #strong(positive) \ ]
      if negative != none [LR− #strong(negative) \ ]
      v(3pt)
    }
    if d.compared {
      for (index, group) in d.groups.enumerate() {
        box(width: 4mm, height: 2.4mm, place(dx: 1.5mm, dy: 1.2mm, shape(index, 1mm, none, 0.8pt + shade(index))))
        [ #group.title \ ]
      }
      v(3pt)
    }
    quiet[
      A mark in the plot has the area of its people and is filled as far as they have the condition; + is a summary point.
      #if d.roc != none [Shaded: where the summary lies with 95 %; dashed: where the next study is expected with 95 %.]
      #if d.roc != none and d.roc.curve.len() > 1 [Line: summary curve over the specificities seen.]
    ]
    v(3pt)
    if d.method != none { quiet[Method: #d.method.] }
    v(3pt)
    quiet[Printed #d.printed. Educational and decision-support material; not a diagnosis. Local protocols rule.]
  },
)
