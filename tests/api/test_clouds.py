"""Clouds over HTTP: accounts of a stand-in cloud that are reached, read and brought step by step to the design."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from pontifex.demo.clouds import BOOKING, REPORTING
from pontifex.demo.stand_in_cloud import demo_cloud

LINE = "/api/designs/skerry-line"
CLOUDS = f"{LINE}/clouds"


class _Clock:
    def __init__(self) -> None:
        self.ahead = timedelta()

    def __call__(self) -> datetime:
        return datetime.now(UTC) + self.ahead


@pytest.fixture
def clock():
    return _Clock()


@pytest.fixture
def served(tmp_path, clock):
    cloud = demo_cloud(tmp_path / "cloud.json", clock)
    cloud.start()
    yield cloud
    cloud.stop()


def _way(served, account, **changed):
    return {
        "account": account,
        "address": served.address,
        "token": served.tokens.get(account, "none"),
        "fingerprint": served.fingerprint,
        **changed,
    }


@pytest.fixture
def reached(client, served):
    """Both accounts are reached, and read once."""
    shown = client.post(f"{CLOUDS}/shown", json={"address": served.address}).json()
    assert shown == {"fingerprint": served.fingerprint}
    for account in (BOOKING, REPORTING):
        assert client.put(f"{CLOUDS}/access", json=_way(served, account)).status_code == 200
    answer = client.post(f"{CLOUDS}/readings", json={"accounts": []})
    assert [account["read_by"] != "" for account in answer.json()] == [True, True]
    return served


def _steps(client):
    return {step["key"]: step for step in client.get(CLOUDS).json()["steps"]}


def _take(client, key):
    return client.post(f"{CLOUDS}/steps", json={"key": key})


def test_the_peering_of_the_demo_is_mended_over_http(client, reached, clock):
    """Accept, wait, a route in each table, take it over into the design, mend the rule there, and put it in the cloud."""
    assert _steps(client)["accept/basalt-gneiss"]["state"] == "due"
    assert _take(client, "accept/basalt-gneiss").status_code == 200
    assert _steps(client)["accept/basalt-gneiss"]["state"] == "settling"
    early = _take(client, "route/main/10.81.0.0/20@basalt-network")
    assert (early.status_code, early.json()["detail"]) == (409, "The peering must be active first.")
    clock.ahead = timedelta(minutes=1)
    client.post(f"{CLOUDS}/readings", json={"accounts": [BOOKING]})
    for prefix, network in (("10.81.0.0/20", "basalt-network"), ("10.80.0.0/20", "gneiss-network")):
        assert _take(client, f"route/main/{prefix}@{network}").status_code == 200
    shown = client.get(CLOUDS).json()
    (peering,) = shown["peerings"]
    assert (peering["state"], peering["reach"][0]["before"]) == ("active", "one-way")
    (take_over,) = shown["take_over"]
    revision = client.get(LINE).json()["revision"]
    change = {"base_revision": revision, "note": take_over["title"], "operations": take_over["operations"]}
    assert client.post(f"{LINE}/changes", json=change).status_code == 200
    findings = client.get(f"{LINE}/analysis").json()["findings"]
    told = next(finding for finding in findings if finding["code"] == "cloud.answer-blocked")
    assert told["screen"] == "clouds"
    where = [{part: place[part] for part in ("type", "id", "field")} for place in told["where"]]
    remedy = client.post(f"{LINE}/remedies", json={"code": told["code"], "where": where}).json()[0]
    change = {"base_revision": revision + 1, "note": "Mend", "operations": remedy["operations"]}
    assert client.post(f"{LINE}/changes", json=change).status_code == 200
    (rule,) = [key for key, candidate in _steps(client).items() if key.startswith("rule/") and candidate["state"] == "due"]
    assert _take(client, rule).status_code == 200
    assert {step["state"] for step in _steps(client).values()} == {"done"}
    assert client.get(CLOUDS).json()["peerings"][0]["reach"][0]["before"] == "reaches"
    assert _take(client, rule).status_code == 409


def test_what_opens_an_account_is_in_no_answer_and_no_log(client, reached, caplog, capsys):
    """Not in the list, nor in what is refused; a token that opens nothing is told without itself."""
    for token in reached.tokens.values():
        assert token not in client.get(f"{CLOUDS}/accounts").text + client.get(CLOUDS).text
    client.put(f"{CLOUDS}/access", json=_way(reached, BOOKING, token="a-forged-token"))
    refused = client.post(f"{CLOUDS}/readings", json={"accounts": [BOOKING]})
    assert (refused.status_code, refused.json()["detail"]) == (422, "It doesn't know this token.")
    said = refused.text + caplog.text + "".join(capsys.readouterr())
    assert "a-forged-token" not in said
    assert not any(token in said for token in reached.tokens.values())


@pytest.mark.parametrize(
    ("path", "body", "status"),
    [
        ("access", {"account": "nobody"}, 404),
        ("access", {"address": "no port"}, 422),
        ("readings", {"accounts": [REPORTING]}, 404),
        ("steps", {"key": "accept/basalt-gneiss"}, 409),
        ("shown", {"address": "127.0.0.1:1"}, 503),
        ("shown", {"address": "a..b:1"}, 503),  # no label of a name is empty
    ],
)
def test_bad_input_is_told(client, served, path, body, status):
    """An account that is none, an address without a port, what isn't reached, what isn't due, nobody there."""
    if path == "access":
        answer = client.put(f"{CLOUDS}/access", json=_way(served, BOOKING) | body)
    else:
        answer = client.post(f"{CLOUDS}/{path}", json=body)
    assert answer.status_code == status
    assert answer.json()["detail"]


def test_an_account_can_be_forgotten(client, reached):
    """What was read of it stays, and nothing is taken there any more."""
    assert client.delete(f"{CLOUDS}/access", params={"account": REPORTING}).status_code == 204
    shown = {account["account"]: account for account in client.get(f"{CLOUDS}/accounts").json()}
    assert (shown[REPORTING]["address"], shown[BOOKING]["address"]) == ("", reached.address)
    assert shown[REPORTING]["read_at"]
    assert _take(client, "accept/basalt-gneiss").status_code == 404
