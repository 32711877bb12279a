"""The few pages that are not the API: sign-in, the application's shell, and whether the server is well."""

import time
from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView
from django.core import signing
from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_POST

from aquifer import first_start, readiness
from aquifer.accounts import door
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed, User
from aquifer.accounts.pace import FORGOTTEN, PASSKEYS, Pace
from aquifer.company.models import Company
from aquifer.errors import Conflict, Invalid
from aquifer.office import logo, passkeys, passwords, second_step, tasks
from aquifer.outbox.gateway import sends

DEMO_ACCOUNTS = [
    ("planner", "Planner", "what is due and why"),
    ("technician", "Technician", "records visits"),
    ("lead", "Lead", "practice and administration"),
    ("apprentice", "Apprentice", "records under supervision"),
]
DEMO_PASSWORD = "try-aquifer-here"


class SignIn(LoginView):
    template_name = "sign_in.html"
    redirect_authenticated_user = True

    def get(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """An installation in which nobody can sign in begins with its first page."""
        return redirect("first-start") if first_start.is_needed() else super().get(request, *args, **kwargs)

    def post(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """Not from where many names were tried."""
        if door.is_spraying(request.META.get("REMOTE_ADDR", "")):
            return locked_out(request, None)
        return super().post(request, *args, **kwargs)

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Whoever set up a second step is not in yet."""
        person = form.get_user()
        return _let_in(self.request, person, person.backend, self.get_success_url())

    def get_context_data(self, **kwargs: object) -> dict[str, object]:
        return {**super().get_context_data(**kwargs), **_passkeys(self.request), **_demo()}


@never_cache
@require_POST
def begin_passkey(request: HttpRequest) -> JsonResponse:
    """What a browser answers with a key of its choice."""
    if not Pace("passkey", PASSKEYS).allow_request(request):
        told = {"code": "too_often", "message": "That was tried too often from where you are: wait some minutes."}
        return JsonResponse({**told, "fields": {}}, status=429)
    return JsonResponse(passkeys.begin_sign_in(request))


@never_cache
@require_POST
def passkey(request: HttpRequest) -> HttpResponse:
    """Somebody signs in by a key: it was opened by their finger, face or PIN, so that no second step is asked."""
    person = passkeys.whose(request, request.POST.get("answered", "")[:20_000])
    if person is None:
        note(Deed.NOT_SIGNED_IN, request, None, "a key")
        told = {"form": AuthenticationForm(request), "wrong_key": True, **_passkeys(request), **_demo()}
        return render(request, "sign_in.html", told, status=422)
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    then = request.POST.get("next", "")
    here = url_has_allowed_host_and_scheme(then, {request.get_host()}, require_https=request.is_secure())
    return redirect(then if here else "/")


def _passkeys(request: HttpRequest) -> dict[str, object]:
    return {"passkeys": bool(passkeys.site_of(request))}


def _let_in(request: HttpRequest, person: User, backend: str, then: str) -> HttpResponse:
    """Somebody gave the right password; whoever set up a second step, or is to, is half in."""
    is_on = second_step.is_on(person)
    if not is_on and not second_step.is_asked(person):
        login(request, person, backend=backend)
        return redirect(then)
    request.session.cycle_key()
    request.session[_HALF_IN] = [person.pk, backend, time.time(), then]
    return redirect("second-step" if is_on else "set-up-second-step")


_HALF_IN = "half_in"
HALF_IN_S, SETTING_UP_S = 300, 1800
"""So long after the password the code may be typed, and a telephone made ready that never showed one. Assumption."""


def _half_in(request: HttpRequest, for_s: float) -> tuple[User, str, str] | None:
    """Who typed the right password lately, by what they are signed in, and where they were going."""
    pk, backend, at, then = request.session.get(_HALF_IN) or (0, "", 0.0, "/")
    person = User.objects.filter(pk=pk, is_active=True).first()
    if person is None or time.time() - at > for_s:
        request.session.pop(_HALF_IN, None)
        return None
    return person, backend, then


@never_cache
def second_step_page(request: HttpRequest) -> HttpResponse:
    """The code of a telephone, or one from the paper, from whoever typed the right password."""
    half = _half_in(request, HALF_IN_S)
    if half is None:
        return redirect("sign-in")
    person, backend, then = half
    if request.method != "POST":
        return render(request, "second_step.html")
    if not second_step.is_right(person, request.POST.get("code", "")[:32].replace("\x00", "")):
        note(Deed.NOT_SIGNED_IN, request, person, "the second step")
        return render(request, "second_step.html", {"wrong": True}, status=422)
    del request.session[_HALF_IN]
    login(request, person, backend=backend)
    return redirect(then)


@never_cache
def set_up_second_step(request: HttpRequest) -> HttpResponse:
    """Somebody of whose role a second step is asked sets it up before they are in; the codes on paper come after."""
    half = _half_in(request, SETTING_UP_S)
    if half is None:
        return redirect("sign-in")
    person, backend, then = half
    if second_step.is_on(person):
        return redirect("second-step")
    told: dict[str, object] = {}
    if request.method == "POST":
        try:
            codes = second_step.confirm(person, request.POST.get("code", "")[:32].replace("\x00", ""))
        except (Conflict, Invalid) as error:
            told["trouble"] = error.message
        else:
            note(Deed.SET_SECOND_STEP, request, person)
            del request.session[_HALF_IN]
            login(request, person, backend=backend)
            return render(request, "set_up_second_step.html", {"codes": codes, "then": then})
    address, picture = second_step.begun(person)
    told |= {"address": address, "picture": picture}
    return render(request, "set_up_second_step.html", told, status=422 if "trouble" in told else 200)


def first_page(request: HttpRequest) -> HttpResponse:
    """The company and its first lead, by whoever has the key that the start printed; afterwards there is no such
    page."""
    if not first_start.is_needed():
        return redirect("sign-in")
    given = request.POST.get("key", "") or request.GET.get("key", "")
    form = first_start.FirstStart(request.POST or None)
    wrong = request.method == "POST" and not first_start.is_key(given)
    if request.method == "POST" and not wrong and form.is_valid():
        try:
            lead = first_start.begin(form.cleaned_data)
        except signing.BadSignature:
            return redirect("sign-in")
        login(request, lead, backend="django.contrib.auth.backends.ModelBackend")
        return redirect("/register/files")
    status = 422 if request.method == "POST" else 200
    return render(request, "first_start.html", {"form": form, "key": given, "wrong_key": wrong}, status=status)


@never_cache
def password_forgotten(request: HttpRequest) -> HttpResponse:
    """Somebody asks for a link by which they set a new password. What is answered says of no account whether it is."""
    told: dict[str, object] = {"sends": sends(), "hours": passwords.hours_good()}
    if request.method == "POST" and sends():
        if not Pace("forgotten", FORGOTTEN).allow_request(request):
            return render(request, "password_forgotten.html", {**told, "too_often": True}, status=429)
        tasks.send_password_link.defer(name=request.POST.get("name", "").replace("\x00", "").strip()[:254])
        told["asked"] = True
    return render(request, "password_forgotten.html", told)


@never_cache
def set_password(request: HttpRequest, of: str, token: str) -> HttpResponse:
    """Somebody sets their own password by a link that was handed or sent to them, and is signed in."""
    person = passwords.opened(of, token)
    told = {"person": person, "hours": passwords.hours_good()}
    if person is None:
        return render(request, "set_password.html", told, status=410)
    if request.method == "POST":
        try:
            passwords.put(person, request.POST.get("password", ""))
        except Invalid as error:
            return render(request, "set_password.html", {**told, "trouble": error.message}, status=422)
        note(Deed.SET_PASSWORD, request, person)
        return _let_in(request, person, "django.contrib.auth.backends.ModelBackend", "/")
    return render(request, "set_password.html", told)


def locked_out(request: HttpRequest, credentials: object, *args: object, **kwargs: object) -> HttpResponse:
    """Too many failures: say so on the page where they happened."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    return render(request, "sign_in.html", {"locked_minutes": minutes, **_demo()}, status=429)


def _demo() -> dict[str, object]:
    return {"demo_accounts": DEMO_ACCOUNTS, "demo_password": DEMO_PASSWORD} if settings.DEMO else {}


@login_required
@ensure_csrf_cookie
def application(request: HttpRequest) -> HttpResponse:
    """The React application's page for every address that is its own."""
    shell = settings.WEB / "index.html"
    if not shell.exists():
        return HttpResponse("The front end is not built: start with ./run, which builds it.", status=503)
    nonce = str(getattr(request, "csp_nonce", ""))
    response = HttpResponse(shell.read_text().replace("__NONCE__", nonce))
    response["Cache-Control"] = "no-cache"
    return response


def company_logo(request: HttpRequest) -> HttpResponse | FileResponse:
    """The company's logo, which its customers see too."""
    found = logo.opened(Company.current().logo)
    if found is None:
        return HttpResponse("There is no logo.", status=404, content_type="text/plain")
    response = FileResponse(found, content_type="image/png")
    response["Cache-Control"] = "public, max-age=86400"
    return response


def service_worker(request: HttpRequest) -> HttpResponse:
    """What keeps the application's files on a device; from the root, so that it may serve every address."""
    worker = settings.WEB / "sw.js"
    if not worker.exists():
        return HttpResponse("", status=404, content_type="text/javascript")
    response = HttpResponse(worker.read_bytes(), content_type="text/javascript")
    response["Cache-Control"] = "no-cache"
    return response


def healthz(request: HttpRequest) -> JsonResponse:
    """The process answers."""
    return JsonResponse({"status": "ok"})


def readyz(request: HttpRequest) -> JsonResponse:
    """The work is done: database, migrations, workers, queue and disk; else what is amiss, and 503."""
    found = readiness.troubles()
    return JsonResponse({"status": "not ready" if found else "ok", **found}, status=503 if found else 200)


_PRIVATE = ("/api/", "/answer/", "/calendar/", "/set-password/", "/admin/")
PERMISSIONS = "camera=(self), geolocation=(), microphone=(), payment=(), usb=()"


def private(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """What is on record is kept by nobody on the way, nor by the next person at this machine; no page uses more of a
    device than it needs."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Permissions-Policy", PERMISSIONS)
        if request.path.startswith(_PRIVATE):
            response.headers.setdefault("Cache-Control", "private, no-store")
        return response

    return answer
