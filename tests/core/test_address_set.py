"""Sets of addresses, room, tables of prefixes, and their commands."""

from __future__ import annotations

import ipaddress
import json
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import AddressSet, Family, Prefix, free_blocks, minimal_cover
from pontifex.core.addressing.table import TableError, read_prefix_table
from tests.support.prefixes import SMALL, prefixes

run = CliRunner().invoke
LISTS = st.lists(SMALL, max_size=8)


def _points(blocks):
    return {address for block in blocks for address in range(block.network, block.last + 1)}


def _set(blocks):
    return AddressSet.of(blocks, Family.V4)


@given(LISTS, LISTS)
def test_set_algebra_by_counting(some, others):
    """On eight-bit addresses, union, intersection and difference are those of the sets of single addresses."""
    one, other = _set(some), _set(others)
    for made, expected in (
        (one | other, _points(some) | _points(others)),
        (one & other, _points(some) & _points(others)),
        (one - other, _points(some) - _points(others)),
    ):
        assert _points(made.prefixes()) == expected
        assert made.size == len(expected)


@given(st.lists(prefixes(), max_size=12))
def test_blocks_are_the_minimal_cover_and_the_complement_is_the_rest(blocks):
    """In both families the blocks are the fewest; a set and its complement make everything, with nothing in common."""
    for family in Family:
        mine = [block for block in blocks if block.family is family]
        made = AddressSet.of(blocks, family)
        assert made.prefixes() == minimal_cover(mine)
        rest = made.complement()
        assert rest.complement() == made
        assert (made | rest) == AddressSet.everything(family)
        assert not len(made & rest)
        assert made.size + rest.size == family.last + 1


def test_the_complement_is_the_standard_librarys():
    """All but some prefixes is what excluding one after the other leaves, by the standard library."""
    draw = random.Random(3)
    blocks = [Prefix(Family.V4, draw.getrandbits(32) & ~Family.V4.host_mask(length), length) for length in range(8, 30)]
    left = [ipaddress.IPv4Network("0.0.0.0/0")]
    for gone in (ipaddress.IPv4Network(str(block)) for block in minimal_cover(blocks)):
        left = [part for net in left for part in (net.address_exclude(gone) if gone.subnet_of(net) else [net])]
    expected = [str(net) for net in ipaddress.collapse_addresses(left)]
    assert [str(block) for block in _set(blocks).complement().prefixes()] == expected


@given(st.lists(SMALL, min_size=1, max_size=10), st.integers(1, 5))
def test_a_summary_is_short_and_loses_nothing(blocks, most):
    """A summary has at most so many prefixes, and holds all that it sums up."""
    made = _set(blocks)
    summed = made.summary(most)
    assert len(summed) <= most
    assert _points(summed) >= _points(blocks)
    if len(made.prefixes()) <= most:
        assert summed == made.prefixes()


@given(LISTS, st.integers(24, 32), st.integers(1, 300))
def test_free_blocks_are_free_apart_and_as_many_as_fit(used, length, count):
    """Free blocks touch nothing that is used nor each other, and are fewer than asked for only where no more fit."""
    whole = Prefix(Family.V4, used[0].network & ~0xFF if used else 0, 24)
    space = _set([whole]) - _set(used)
    found = free_blocks(space, length, count)
    assert len(minimal_cover(found)) <= len(found)
    assert sum(1 << (32 - block.length) for block in found) == len(_points(found))
    assert _points(found) <= _points(space.prefixes())
    room = sum(1 << (length - block.length) for block in space.prefixes() if block.length <= length)
    assert len(found) == min(count, room)


def test_the_least_large_block_is_cut_up_first():
    """A small block goes where a small gap is, so that large gaps stay whole."""
    texts = ["10.0.0.0/26", "10.0.0.128/25", "10.0.1.0/24"]  # leaves 10.0.0.64/26, and 10.0.2.0/23 in a /22
    used = [_prefix(text) for text in texts]
    space = _set([_prefix("10.0.0.0/22")]) - _set(used)
    assert [str(block) for block in free_blocks(space, 27, 3)] == ["10.0.0.64/27", "10.0.0.96/27", "10.0.2.0/27"]


def _prefix(text):
    return next(read_prefix_table([text]).prefixes())


def _table(tmp_path, text):
    file = tmp_path / "networks.csv"
    file.write_text(text)
    return str(file)


def test_overlaps_command(tmp_path):
    """Pairs are told by name within their zone, in order, with the class as seen from the first; exit 1 when there are any."""
    ours = "hall,10.1.0.0/24,\nsite,10.1.0.0/16,\ntwin,10.1.0.0/24,\n"
    text = f"name,prefix,zone\n# ours\n{ours}guests,10.1.0.0/24,guests\nsix,fd00::/8\nlab,fd00::/16\n"
    told = run(app, ["overlaps", _table(tmp_path, text), "--json"])
    assert told.exit_code == 1
    assert [(pair["a"], pair["b"], pair["class"]) for pair in json.loads(told.stdout)["pairs"]] == [
        ("site", "hall", "contains"), ("site", "twin", "contains"), ("hall", "twin", "identical"), ("six", "lab", "contains"),
    ]  # fmt: skip
    assert "site contains hall" in run(app, ["overlaps", _table(tmp_path, text)]).stdout
    sound = run(app, ["overlaps", _table(tmp_path, "a,10.0.0.0/24\nb,10.0.1.0/24\n"), "--json"])
    assert (sound.exit_code, json.loads(sound.stdout)) == (0, {"pairs": []})


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,10.0.0.0/24\nb,10.0.0.1/24\n", "line 2: host bits are set in 10.0.0.1/24; did you mean 10.0.0.0/24?"),
        ("name,prefix\na,10.0.0/24\n", "line 2: '10.0.0' has 3 parts"),
        ("a,10.0.0.0/24\n\n\nb,fd00::/129\n", "line 4: the length /129 is out of range"),
        ("a,10.0.0.01/32\n", "line 1: '01' in '10.0.0.01' has a leading zero"),
        ("a,10.0.0.0\n", "line 1: '10.0.0.0' has no length"),
    ],
)
def test_a_bad_line_is_named(tmp_path, text, words):
    """A line that can't be read is named by number with the reason; exit 2."""
    told = run(app, ["overlaps", _table(tmp_path, text)])
    assert told.exit_code == 2
    assert words in told.stderr
    with pytest.raises(TableError, match=r"^line \d"):
        read_prefix_table(text.splitlines(keepends=True))


def test_free_and_cover_commands(tmp_path):
    """Free room is told from what is used; a cover is minimal and in address order; what can't be is refused."""
    used = _table(tmp_path, "a,10.64.0.0/24\nb,10.64.1.0/25\n")
    told = run(app, ["free", "--in", "10.64.0.0/22", "--used", used, "--size", "25", "--count", "2", "--json"])
    assert (told.exit_code, json.loads(told.stdout)) == (0, {"free": ["10.64.1.128/25", "10.64.2.0/25"]})
    assert run(app, ["free", "--in", "10.64.0.0/24", "--used", used, "--size", "24"]).exit_code == 1
    assert "33" not in run(app, ["free", "--in", "10.64.0.0/24", "--size", "33"]).stdout
    told = run(app, ["cover", "--only", "10.0.1.0/24,10.0.0.0/24", "--all-but", "10.0.0.0/25", "--json"])
    assert json.loads(told.stdout) == {"prefixes": ["10.0.0.128/25", "10.0.1.0/24"]}
    told = run(app, ["cover", "--all-but", "8000::/1", "--json"])
    assert json.loads(told.stdout) == {"prefixes": ["::/1"]}
    for wrong in (["cover"], ["cover", "--only", "10.0.0.1/24"], ["free", "--in", "x", "--size", "9"]):
        assert run(app, wrong).exit_code == 2


@given(LISTS, st.integers(1, 6), st.integers(0, 200))
def test_a_summary_keeps_its_bound_on_waste(values, most, waste):
    """A summary holds every address, and never more others than allowed; without a bound, no more prefixes than wanted."""
    space = _set(values)
    bounded = AddressSet.of(space.summary(most, waste), Family.V4)
    assert not len(space - bounded)
    assert bounded.size - space.size <= waste
    assert len(space.summary(most)) <= most
