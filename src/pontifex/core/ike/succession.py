"""How a new SA takes over, and which is kept where both ends rekey at once (RFC 7296 sections 2.8 and 2.18)."""

from __future__ import annotations

from pontifex.core.ike import child
from pontifex.core.ike.ike_sa import Creation, DueRequest, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.keys import next_seed
from pontifex.core.ike.machine import Machine


def put_into_use(m: Machine, sa: IkeSa, creation: Creation) -> None:
    """Put a new SA into use once its key exchanges are done."""
    if creation.makes_ike:
        _ike(m, sa, creation)
    else:
        _child(m, sa, creation)


def _least_nonce(creation: Creation) -> bytes:
    return min(creation.nonce_i, creation.nonce_r)


def _child(m: Machine, sa: IkeSa, creation: Creation) -> None:
    made = child.install(m, sa, creation)
    old = sa.children.get(creation.replaces) if creation.replaces else None
    if old is None:
        return
    if not creation.initiated:
        if old.rekeying:
            old.rival = creation  # which one is kept is known once the own answer has come
        else:
            old.replaced = True  # the other end deletes it
        return
    rival = old.rival
    old.rekeying, old.rival, old.replaced = False, None, True
    if rival is None:
        sa.waiting.append((DueRequest.DELETE_CHILD, old.sa.spi_in))
    elif _least_nonce(creation) < _least_nonce(rival):
        m.log("Both ends rekeyed the Child SA at once: the other end's is kept.")
        made.replaced = True
        sa.waiting.append((DueRequest.DELETE_CHILD, made.sa.spi_in))
    else:
        m.log("Both ends rekeyed the Child SA at once: this end's is kept.")
        loser = sa.children.get(rival.own_spi)
        if loser:
            loser.replaced = True  # the other end deletes it
        sa.waiting.append((DueRequest.DELETE_CHILD, old.sa.spi_in))


def _ike(m: Machine, sa: IkeSa, creation: Creation) -> None:
    made = _made(m, sa, creation)
    ours_under_way = sa.request is not None and sa.request.purpose is Purpose.CREATE and sa.creation.makes_ike
    if not creation.initiated and ours_under_way:
        sa.rival = (creation, made)  # which one is kept is known once the own answer has come
        return
    if not creation.initiated:
        _inherit(sa, made)
        return
    rival = sa.rival
    sa.rival = None
    if rival and _least_nonce(creation) < _least_nonce(rival[0]):
        m.log("Both ends rekeyed the IKE SA at once: the other end's is kept.")
        _inherit(sa, rival[1])
        made.waiting.append((DueRequest.DELETE_IKE, b""))
    else:
        _inherit(sa, made)
        sa.waiting.append((DueRequest.DELETE_IKE, b""))


def _made(m: Machine, sa: IkeSa, creation: Creation) -> IkeSa:
    """Return the new IKE SA with its keys; its message ids begin at 0 anew (section 2.18)."""
    assert creation.suite and sa.suite and sa.keys  # noqa: PT018 -- agreed on, under an IKE SA that stands
    own, far = creation.own_spi, creation.far_spi
    spi_i, spi_r = (own, far) if creation.initiated else (far, own)
    made = IkeSa(creation.initiated, spi_i, spi_r, sa.local, sa.remote, creation)
    made.fragments, made.behind_nat, made.far_behind_nat = sa.fragments, sa.behind_nat, sa.far_behind_nat
    made.far_identity, made.mobike, made.leased = sa.far_identity, sa.mobike, sa.leased
    m.sas[own] = made
    seed = next_seed(sa.suite, sa.keys.derive, tuple(creation.secrets), creation.nonces)
    m.key(made, creation.suite, creation.chosen, seed)
    m.log("The IKE SA is rekeyed.")
    m.establish(made, rekeyed=True)
    if m.settings.reauthenticate:
        made.rekey_at, made.ends_at = sa.rekey_at, sa.ends_at  # no rekey is a new proof (section 2.8.3)
    return made


def _inherit(sa: IkeSa, made: IkeSa) -> None:
    """Let the new IKE SA have the Child SAs of the old one, and what waits to be asked about them."""
    made.children, sa.children = sa.children, {}
    made.waiting.extend(task for task in sa.waiting if task[0] is not DueRequest.DELETE_IKE)
    sa.waiting.clear()
    sa.phase = IkeSaState.ENDING
    sa.rekey_at = float("inf")


def before_end(sa: IkeSa) -> None:
    """Let the other end's rekey stand where it deletes the old IKE SA before this end's own rekey was answered."""
    if sa.rival:
        _inherit(sa, sa.rival[1])
        sa.rival = None


def superseded(m: Machine, sa: IkeSa, creation: Creation) -> bool:
    """Whether a refused rekey doesn't matter, since the other end's own has been made meanwhile; it is then kept."""
    if creation.makes_ike and sa.rival:
        _inherit(sa, sa.rival[1])
        sa.rival = None
        return True
    old = sa.children.get(creation.replaces) if creation.replaces else None
    if old and old.rival:
        old.rekeying, old.rival, old.replaced = False, None, True
        m.log("The other end has rekeyed the Child SA meanwhile.")
        return True
    return False
