"""Rows of one kind of object, as they are pasted: cells in the order of the grid's columns, or under headings."""

from __future__ import annotations

import csv
from collections import defaultdict
from collections.abc import Iterable
from typing import Any, Final

from pydantic import ValidationError

from pontifex.core.importing.cells import CellError, ObjectNames, cell_value
from pontifex.core.importing.plan import ImportLine, ImportPlan, LineOutcome
from pontifex.core.importing.record import shortened
from pontifex.core.importing.tables import separator_of
from pontifex.core.importing.words import as_name, folded
from pontifex.core.kinds import KIND_BY_TYPE, DesignMember, Kind, ObjectType, Site
from pontifex.core.kinds.column import Column, columns_of
from pontifex.core.model import ChangeRefused, Design, Operation, OperationProblem, apply_operations, put
from pontifex.core.model.ids import fresh_id
from pontifex.core.model.references import parent_id
from pontifex.core.validation_reasons import reason_of

MOST_ROWS: Final = 2000


class _Rows:
    """The rows that were read so far, and the operations that lead there with the lines that they come from."""

    def __init__(self, design: Design, kind: Kind[Any]) -> None:
        self.design, self.kind, self.columns = design, kind, columns_of(kind)
        self.lines: list[ImportLine] = []
        self.operations: list[Operation] = []
        self.line_of: list[int] = []  # place in `lines` for each operation
        self._names = ObjectNames(design)
        self._sites = set(design.site_by_id)
        self._taken = set(design.by_type[kind.name])
        self._known: dict[tuple[str, str], list[DesignMember]] = defaultdict(list)
        for item in getattr(design, kind.members):
            self._known[self._key(item)].append(item)

    def _key(self, item: DesignMember) -> tuple[str, str]:
        """Return what tells an object from its siblings: what it belongs to, and its name or prefix."""
        return parent_id(item), folded(item.name or str(getattr(item, "prefix", "")))

    def take(self, number: int, cells: list[str]) -> None:
        """Read one row."""
        text = shortened(" · ".join(cell for cell in cells if cell.strip()))
        try:
            outcome, became, detail = self._read(cells)
        except ValidationError as error:
            first = error.errors()[0]
            titles = [column.title for column in self.columns if first["loc"][:1] == (column.field,)]
            outcome, became, detail = LineOutcome.UNREAD, "", ": ".join((*titles, reason_of(first)))
        except CellError as error:
            outcome, became, detail = LineOutcome.UNREAD, "", str(error)
        self.lines.append(ImportLine(line=number, text=text, outcome=outcome, became=became, detail=detail))

    def _read(self, cells: list[str]) -> tuple[LineOutcome, str, str]:
        if len(cells) > len(self.columns):
            return LineOutcome.UNREAD, "", f"has {len(cells)} cells; {len(self.columns)} at most"
        site = self._new_site(cells)
        given = zip(self.columns, cells, strict=False)
        values = {
            column.field: cell_value(column, cell, self._names)
            for column, cell in given
            if not (site and column is self.columns[0])
        }
        if site:
            values[self.columns[0].field] = site.id
        missing = [column.title for column in columns_of(self.kind) if column.required and values.get(column.field) in (None, "")]
        if missing:
            return LineOutcome.UNREAD, "", f"still needs: {', '.join(missing)}"
        fresh = self.kind.model.model_validate({"id": self._id(values)} | values)
        became = f"{self.kind.name.label} {fresh.name or getattr(fresh, 'prefix', '')}"
        alike = self._known[self._key(fresh)]
        changed = [self.kind.model.model_validate(member.model_dump(mode="json") | values) for member in alike]
        if any(now == before for now, before in zip(changed, alike, strict=True)):
            return LineOutcome.SAME, became, ""
        known = alike[0] if len(alike) == 1 else None  # of several routes to one prefix a row means none of those there
        item = changed[0] if known else fresh
        self._keep(item, site)
        detail = f"with a new site, {site.name}" if site else ""
        return (LineOutcome.CHANGES if known else LineOutcome.NEW), became, detail

    def _keep(self, item: DesignMember, site: Site | None) -> None:
        for member in filter(None, (site, item)):
            self.operations.append(put(member))
            self.line_of.append(len(self.lines))
        if site:
            self._sites.add(site.id)
            self._names.add(ObjectType.SITE, site)
        self._taken.add(item.id)
        others = [design_member for design_member in self._known[self._key(item)] if design_member.id != item.id]
        self._known[self._key(item)] = [*others, item]

    def _new_site(self, cells: list[str]) -> Site | None:
        """Return the site that a row names first, where there is none of that name."""
        name = as_name(cells[0])
        if self.columns[0].refers != (ObjectType.SITE,) or not name or self._names.find(ObjectType.SITE, name):
            return None
        return Site(id=fresh_id(name, self._sites), name=name)

    def _id(self, values: dict[str, Any]) -> str:
        parent = str(values[self.kind.parent.field]).removesuffix("-gateway") if self.kind.parent else ""
        return fresh_id(f"{parent} {values.get('name') or values.get('prefix')}", self._taken)

    def refuse(self, problems: Iterable[OperationProblem]) -> None:
        """Say at each line what the design as a whole has against it."""
        for problem in problems:
            place = self.line_of[problem.index]
            line = self.lines[place]
            told = ImportLine(
                line=line.line, text=line.text, outcome=LineOutcome.UNREAD, became=line.became, detail=problem.reason
            )
            self.lines[place] = told


def plan_rows(design: Design, type_: ObjectType, text: str) -> ImportPlan:
    """Return what pasted rows would change, line by line. Sites that they name and that aren't there are made."""
    kind = KIND_BY_TYPE[type_]
    rows = _Rows(design, kind)
    lines = text.splitlines()
    if len(lines) > MOST_ROWS:
        reason = f"the paste holds {len(lines)} rows; {MOST_ROWS} at most at once. Nothing was taken over"
        rows.lines.append(ImportLine(line=1, text="", outcome=LineOutcome.UNREAD, became="", detail=reason))
        lines = []
    separator = (separator_of(lines[0]) if lines else "") or ","
    reader = csv.reader(lines, delimiter=separator, skipinitialspace=True)
    for cells in reader:
        headed = () if rows.lines else _headed(rows.columns, cells)
        if headed:
            rows.columns = headed
        elif any(cell.strip() for cell in cells):
            rows.take(reader.line_num, cells)
    try:
        apply_operations(design, rows.operations)
    except ChangeRefused as refused:
        rows.refuse(refused.problems)
    return ImportPlan(taken_for=f"rows of {kind.title.lower()}", lines=tuple(rows.lines), operations=tuple(rows.operations))


def _headed(columns: tuple[Column, ...], cells: list[str]) -> tuple[Column, ...]:
    """Return the columns that a row of headings names, in its order; empty where it is a row like the others."""
    name = next(column for column in columns if column.field == "name")
    by_heading = {"network": name}  # what people call it in a list of networks
    by_heading |= {heading: column for column in columns for heading in _headings(column)}
    found = tuple(column for cell in cells if (column := by_heading.get(folded(cell))))
    return found if len(found) == len(cells) and len(found) > 1 else ()


def _headings(column: Column) -> tuple[str, ...]:
    """Return what a column may be called: its title, with its unit or without, and the name of its field."""
    title = folded(column.title)
    return title, title.partition(",")[0], column.field.replace("_", " ")
