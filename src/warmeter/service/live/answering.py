"""What a person says of an alert: kept with who said it and when; an answer to a question marks its fact."""

from typing import Literal

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.live.alerts import AlertAnswer, AnswerKind
from warmeter.core.units import MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.live.live_now import home_now_ms
from warmeter.service.rules.rule_signals import ANSWER_EVENT

Said = Literal["done", "said", "seen", "later"]


def answer_alert(
    app: App, home: Home, revision: int, alert_id: int, *, kind: Said, by: str, label: str = "", later_min: float = 0.0
) -> None:
    """Keep an answer to an alert.

    Raises
    ------
    HomeError
        If the alert is not there, was closed already, or the answer is none of those that its question offers.
    """
    alert = app.live_alerts.alert(home.id, alert_id)
    if alert is None:
        raise HomeError("this alert is not there any more")
    if alert.closed_ms is not None:
        raise HomeError("somebody has answered this already")
    now_ms = home_now_ms(app, home.id)
    if kind == "said":
        if label not in alert.detail.get("answers", []):
            raise HomeError("this is none of the answers; look at the page again")
        app.events.add(home.id, ANSWER_EVENT, str(alert.detail["rule_id"]), now_ms, label, revision)
    as_kept: AnswerKind = "done" if kind == "said" else kind
    until_ms = now_ms + round(later_min * MS_PER_MIN) if kind == "later" else 0
    app.live_alerts.answer(alert.id, AlertAnswer(at_ms=now_ms, kind=as_kept, by=by, until_ms=until_ms, label=label))
    if as_kept == "done":
        app.live_alerts.end(alert.id, alert.ended_ms, now_ms)
