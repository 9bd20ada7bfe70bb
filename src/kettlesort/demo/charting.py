"""The demo's codebook, and what its team has charted so far."""

from __future__ import annotations

from kettlesort.demo.document import Document
from kettlesort.demo.papers import ALLOCATED, facts
from kettlesort.demo.team import Team, last_job
from kettlesort.work import chart, codebook, extractors, proposals, studies
from kettlesort.work.codebook import Book, ConceptWording, ItemWording, LevelWording
from kettlesort.work.double import Mode

CODEBOOK = Book(
    [
        ItemWording(None, "Site", "text", instructions="The landscape in the authors' words.", concept="Setting"),
        ItemWording(None, "First winter", "date", instructions="When the first winter began.", concept="Setting"),
        ItemWording(None, "Colonies", "number", instructions="Colonies at the start of winter, all arms.", low=1, concept="Setting"),
        ItemWording(
            None, "Design", "choice", choices=["Randomised", "Quasi-random", "Cohort"], instructions="How colonies came to be insulated or not.", concept="Setting"
        ),
        ItemWording(None, "Material", "choice", choices=["Foam", "Straw", "Tar paper", "Wood fibre"], instructions="What the wrap is made of.", concept="Insulation"),
        ItemWording(None, "Thickness", "quantity", "mm", instructions="Thickness of the wrap.", low=1, high=500, concept="Insulation", examples="30 mm; 3 cm"),
        ItemWording(
            None, "Survived", "counts", per=["arm"], instructions="Colonies alive at the first spring inspection, of those in autumn.", concept="Survival"
        ),
        ItemWording(None, "Food used", "mean_sd", per=["arm"], instructions="Kilograms of stored food that were used over winter.", concept="Stored food"),
        ItemWording(None, "Food weighed", "yesno", instructions="Whether stored food was weighed.", concept="Stored food"),
    ],
    [
        ConceptWording(None, "Setting"), ConceptWording(None, "Insulation"), ConceptWording(None, "Outcome"), ConceptWording(None, "Survival", "Outcome"),
        ConceptWording(None, "Stored food", "Outcome"), ConceptWording(None, "Mites", "Outcome"),
    ],
    [
        LevelWording(None, "arm", "Wrapped", ["insulated"]), LevelWording(None, "arm", "Plain", ["uninsulated", "control"]),
        LevelWording(None, "arm", "Indoors", ["cellar", "wintered indoors"]),
    ],
)  # fmt: skip


def chart_studies(review: int, team: Team, truth: dict[int, Document]) -> None:
    """A quarter of the studies is charted by hand, the next ones in part as proposed, with more that waits; the rest is not read yet. Where a team is
    more than one person, two read some studies twice."""
    lead, second, _ = team
    codebook.set_codebook(review, lead, CODEBOOK)
    table = chart.evidence_table(review)
    if len(table.studies) > 2:
        studies.link_report(review, lead, table.studies[1].reports[0]["record_id"], table.studies[0].id)
    table = chart.evidence_table(review)
    items = {item.name: item.id or 0 for item in table.book.items}
    arms = [level.id for level in table.levels if level.factor == "arm"]
    for k, study in enumerate(table.studies[:9]):
        report = study.reports[0]["record_id"]
        said = facts(truth[report])
        cells = [
            chart.Typed(study.id, items["Site"], truth[report].place), chart.Typed(study.id, items["Colonies"], str(sum(arm.total for _, arm in said.arms))),
            chart.Typed(study.id, items["Design"], said.design), chart.Typed(study.id, items["First winter"], f"{said.winter}-10"),
            chart.Typed(study.id, items["Material"], said.material), chart.Typed(study.id, items["Thickness"], f"{said.thickness / 10 if k % 4 == 1 else said.thickness} {'cm' if k % 4 == 1 else 'mm'}"),
        ]  # fmt: skip
        for arm, name in zip((said.wrapped, said.plain, said.indoors), arms, strict=True):
            alive, used = (
                (f"{arm.alive} / {arm.total}", f"{arm.used} ± {arm.sd} (n {arm.total})") if arm else ("not applicable", "not applicable")
            )
            cells.append(chart.Typed(study.id, items["Survived"], alive, levels=(name, None, None)))
            cells.append(chart.Typed(study.id, items["Food used"], used, levels=(name, None, None)))
        if k % 4 != 3:
            cells.append(chart.Typed(study.id, items["Food weighed"], "yes" if said.weighed else "no"))
        chart.set_values(review, (lead, second)[k % 2], cells)
    proposals.ask(review, lead, {study.id for study in table.studies[9:20]})
    proposals.propose_values(last_job(review))
    waiting = [
        open_cell
        for open_cell in proposals.open_cells(review)
        if open_cell.confidence > 0.8 and open_cell.study in {study.id for study in table.studies[9:13]}
    ]
    for k, cell in enumerate(waiting):
        if cell.item in (items["Survived"], items["Food used"], items["Thickness"]):
            proposals.accept(review, (lead, second)[k % 2], [cell.proposal])
    if lead != second:
        _read_twice(review, team, table.studies[13:18], {name: items[name] for name in ("Survived", "Design")}, arms, truth)


def _read_twice(
    review: int, team: Team, some: list[chart.StudyRow], items: dict[str, int], arms: list[int | None], truth: dict[int, Document]
) -> None:
    """How many survived, and the design, of some studies as two read them, blind; one slip of a finger, one of a column, two who call a design differently.
    The second has one study still to read; a third has begun to settle."""
    lead, second, third = team
    extractors.set_mode(review, lead, Mode("person", items=tuple(items.values()), studies=tuple(row.id for row in some)))
    extractors.give(review, lead, {row.id: [lead, second] for row in some})
    for k, study in enumerate(some):
        report = study.reports[0]["record_id"]
        said = facts(truth[report])
        for reader in (lead, second):
            other = reader == second
            if other and k == 4:
                continue
            alive = [said.wrapped.alive, said.plain.alive]
            design = said.design
            if other and k == 0:
                alive[0] = max(0, alive[0] - 9)
            if other and k == 2:
                alive.reverse()
                alive = [min(n, arm.total) for n, arm in zip(alive, (said.wrapped, said.plain), strict=True)]
            if other and k in (1, 3):
                design = "Cohort" if design != "Cohort" else "Quasi-random"
            cells = [chart.Typed(study.id, items["Design"], design, ALLOCATED[said.design], "1", record=report)]
            for n, arm, level in zip(alive, (said.wrapped, said.plain), arms[:2], strict=True):
                cells.append(chart.Typed(study.id, items["Survived"], f"{n} / {arm.total}", levels=(level, None, None)))
            chart.set_values(review, reader, [cells[0], *(_quoted(review, cell, report) for cell in cells[1:])])
    first = next(compared for compared in extractors.compared(review) if compared.state == "differ")
    extractors.settle(review, third, first.cell, "", of=lead, seen=[entry["text"] for entry in first.said])


def _quoted(review: int, cell: chart.Typed, report: int) -> chart.Typed:
    """A cell with the words that state its value, as the reader found them; else with the first that it found."""
    found = proposals.of_cell(review, cell.study, cell.item, cell.levels)
    words = next((row for row in found if row["text"] == cell.text), found[0] if found else None)
    return cell._replace(quote=words["quote"], page=str(words["page"] or ""), record=report) if words else cell
