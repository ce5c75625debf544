"""The data model of our own for gateways: published as it is used, valid for an independent reader, and without loss."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given, settings

from pontifex.core.handover.readings import intended
from pontifex.core.handover.renderings.gateway_module import (
    CONTAINER,
    MODULE,
    REVISION,
    NoSuchResource,
    instance_of,
    module_text,
    path_of,
    resource_of,
    settings_of,
)
from pontifex.demo import demo_design
from tests.support.revisions import REVISIONS
from tests.support.yang import check, data_model

DOCS = Path(__file__).parents[2] / "docs"


def test_the_published_text_is_the_one_that_is_used():
    """Whoever builds another device finds in `docs` what the stand-ins speak."""
    assert (DOCS / f"{MODULE}.yang").read_text() == module_text(), f"run: pontifex yang > docs/{MODULE}.yang"


@settings(max_examples=15)
@given(REVISIONS)
def test_what_is_intended_is_an_instance_and_comes_back(revisions):
    """Each setting of each gateway has a resource of its own, and the whole is read back as it was."""
    design = revisions.after
    for gateway in design.gateways:
        settings = {setting.path: setting.text for setting in intended(design, gateway.id)}
        assert settings_of(instance_of(settings), gateway.id) == settings
        assert [path_of(resource_of(path), gateway.id) for path in settings] == list(settings)


def test_an_independent_reader_takes_it():
    """The module's text and its instances are valid; a leaf that it doesn't have is refused."""
    model = data_model((MODULE, REVISION, f"urn:example:{MODULE}", DOCS))
    design = demo_design()
    for gateway in design.gateways:
        check(model, instance_of({setting.path: setting.text for setting in intended(design, gateway.id)}))
    with pytest.raises(Exception, match="colour"):
        check(model, {CONTAINER: {"colour": "red"}})


@pytest.mark.parametrize(
    "resource",
    [
        "pontifex-gateway:gateway",
        "pontifex-gateway:gateway/colour",
        "pontifex-gateway:gateway/tunnel-end=a/role",
        "pontifex-gateway:gateway/tunnel-end=a,left/colour",
        "pontifex-gateway:gateway/tunnel-end=a,left/role/more",
        "pontifex-gateway:gateway/policy=network,x/text",
        "other:gateway/forwarding",
        "",
    ],
)
def test_what_is_no_resource_is_refused(resource):
    """A reader that guesses a place is told that there is none."""
    with pytest.raises(NoSuchResource):
        path_of(resource, "harbour-gateway")
