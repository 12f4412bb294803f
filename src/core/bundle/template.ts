/** The pages' template, in the typesetter's language. It reads its data from the input `record`. */
export const TEMPLATE = `
#let data = json(bytes(sys.inputs.record))
#let ink = rgb("#1c2326")
#let soft = rgb("#4d575b")
#let rule = rgb("#d9d3c4")
#let ochre = rgb("#855611")
#let plum = rgb("#6f4a86")
#let verdigris = rgb("#1f6f64")
#let others = ("Noto Naskh Arabic", "Noto Sans SC", "Noto Sans KR", "Noto Sans Hebrew", "Noto Sans Thai", "Noto Sans Devanagari", "Noto Emoji", "Noto Sans Symbols 2", "Noto Sans Math", "Noto Sans")
#let serif = ("Source Serif Pro",) + others
#let sans = ("Source Sans Pro",) + others
#let mono = ("Source Code Pro",) + others
#set document(title: data.caseName, description: "Record of messages with the places where they were found", date: datetime(year: data.madeAt.at(0), month: data.madeAt.at(1), day: data.madeAt.at(2), hour: data.madeAt.at(3), minute: data.madeAt.at(4), second: data.madeAt.at(5)))
#set text(font: serif, size: 10.5pt, fill: ink, lang: "en", fallback: true)
#set par(leading: 0.6em)
#show heading: set text(font: serif, weight: 600)
#set page(
  paper: "a4",
  margin: (x: 22mm, top: 24mm, bottom: 24mm),
  header: context {
    set text(font: sans, size: 8pt, fill: soft)
    data.caseName
    h(1fr)
    [Made #data.made]
  },
  footer: context {
    set text(font: mono, size: 8pt, fill: soft)
    line(length: 100%, stroke: 0.5pt + rule)
    v(-6pt)
    [K kept · B binned · D dropped · R remnant]
    h(1fr)
    [page #counter(page).display() of #counter(page).final().first()]
  },
)
#let mark(letter, standing) = {
  let body = text(font: mono, size: 8pt, weight: 600, letter)
  if standing == "dropped" { box(fill: plum, width: 12pt, height: 12pt, align(center + horizon, text(fill: white, body))) }
  else if standing == "remnant" { box(stroke: (paint: verdigris, thickness: 0.7pt, dash: "dashed"), width: 12pt, height: 12pt, align(center + horizon, text(fill: verdigris, body))) }
  else if standing == "binned" { box(stroke: 0.7pt + ochre, radius: 6pt, width: 12pt, height: 12pt, align(center + horizon, text(fill: ochre, body))) }
  else { box(width: 12pt, height: 12pt, align(center + horizon, text(fill: soft, body))) }
}
#let lines(body) = {
  let first = true
  for part in body.split("\\n") {
    if not first { linebreak() }
    first = false
    part
  }
}
#heading(level: 1, data.caseName)
#text(size: 11pt, style: "italic")[Record of messages, with the places where each was found]

#heading(level: 2)[Sources]
#for s in data.sources {
  block(below: 8pt)[
    #text(font: sans, weight: 600, s.name) #h(6pt) #text(font: sans, size: 9pt, fill: soft, s.size) \\
    #text(font: mono, size: 8pt)[SHA-256 #s.sha256]
  ]
}
#heading(level: 2)[Times]
Times are written in the zone #(data.zone). Each thread states its distance from UTC.
#heading(level: 2)[What the letters say]
#for s in data.standings {
  block(below: 5pt)[#mark(s.letter, s.name) #h(5pt) *#s.name*: #s.words]
}
#heading(level: 2)[How it was done]
#for m in data.method { par(m) }
#heading(level: 2)[What it cannot say]
#for m in data.limits { par(m) }

#for t in data.threads {
  pagebreak()
  heading(level: 1, t.title)
  block(below: 3pt, text(font: sans, size: 9pt, fill: soft, t.under))
  block(below: 8pt, text(font: sans, size: 9pt, fill: soft, t.excerpt))
  for l in t.lines {
    line(length: 100%, stroke: 0.5pt + rule)
    v(-5pt)
    if l.kind == "gap" {
      pad(left: 98pt, text(style: "italic", size: 9.5pt, fill: ochre, l.text))
    } else {
      block(breakable: l.text.len() > 1200, width: 100%, grid(
        columns: (70pt, 20pt, 1fr),
        column-gutter: 4pt,
        text(font: mono, size: 8.5pt)[#l.date #linebreak() #l.time],
        mark(l.letter, l.standing),
        {
          text(font: sans, size: 8.5pt, weight: 600, fill: soft, l.writer)
          if l.standing != "kept" { text(font: sans, size: 8.5pt, fill: soft, " · " + l.standing) }
          block(above: 5pt, below: 5pt, width: 100%, {
            set text(lang: l.lang)
            if l.kind == "earlier" { strike(lines(l.text)) } else { lines(l.text) }
          })
          if l.note != "" { block(above: 4pt, text(font: sans, size: 7.5pt, fill: soft, l.note)) }
        },
      ))
    }
  }
}
`;
