from django.contrib import admin
from django.contrib.auth.views import LogoutView
from django.urls import path, re_path

from aquifer import pages
from aquifer.api import api
from aquifer.metrics import metrics
from aquifer.outbox import pages as outbox
from aquifer.visiting import pages as visiting
from aquifer.workbench import shown

handler500 = "aquifer.errors.server_failed"
urlpatterns = [
    path("healthz", pages.healthz),
    path("readyz", pages.readyz),
    path("metrics", metrics),
    path("sw.js", pages.service_worker),
    path("logo.png", pages.company_logo),
    path("sign-in", pages.SignIn.as_view(), name="sign-in"),
    path("passkey", pages.passkey, name="passkey"),
    path("passkey/begin", pages.begin_passkey, name="begin-passkey"),
    path("second-step", pages.second_step_page, name="second-step"),
    path("second-step/set-up", pages.set_up_second_step, name="set-up-second-step"),
    path("first-start", pages.first_page, name="first-start"),
    path("password-forgotten", pages.password_forgotten, name="password-forgotten"),
    path("set-password/<str:of>/<str:token>", pages.set_password, name="set-password"),
    path("sign-out", LogoutView.as_view(), name="sign-out"),
    path("admin/", admin.site.urls),
    path("api/", api.urls),
    path("answer/<str:token>", outbox.answer_page),
    path("answer/<str:token>/visit.ics", outbox.visit_calendar),
    path("calendar/year/<str:key>.ics", visiting.owners_year),
    path("calendar/<str:key>.ics", outbox.technician_calendar),
    path("cut-open/<str:key>", shown.page),
    re_path(r"^(?!api/|static/).*$", pages.application),
]
