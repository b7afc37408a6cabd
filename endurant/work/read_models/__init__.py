"""What lists and boards show, kept with the facts by the transaction that changes them."""

from endurant.work.base.transactions import CommitHook, register
from endurant.work.read_models import job_cards

register(CommitHook(at_once=job_cards.refresh_changed, later=job_cards.mark_changed))
