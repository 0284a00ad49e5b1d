"""Forms by which people sign up."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MaySetUp
from uvarovite.api.schemas.signing_up import FormSave
from uvarovite.api.schemas.values import Id
from uvarovite.services.responses import sign_up_forms
from uvarovite.services.responses.sign_up_forms import FormView

router = APIRouter(prefix="/api/sign-up-forms", tags=["set-up"])


@router.get("")
def forms(actor: MaySetUp, context: Context) -> list[FormView]:
    """All forms, with their figures."""
    return sign_up_forms.forms(context.database, actor, public_url=context.public_url)


@router.post("")
def make_form(body: FormSave, actor: MaySetUp, context: Context) -> int:
    """Make a form; its id."""
    now = context.clock()
    return sign_up_forms.save_form(context.database, actor, None, body.change(), revision=None, now=now)


@router.put("/{form_id}")
def change_form(form_id: Id, body: FormSave, actor: MaySetUp, context: Context) -> int:
    """Change a form."""
    now = context.clock()
    return sign_up_forms.save_form(context.database, actor, form_id, body.change(), revision=body.revision, now=now)
