"""Addresses: the API, the OpenAPI schema, the admin, and the web application for everything else."""

from django.contrib import admin
from django.urls import include, path, re_path
from django.views.generic import TemplateView
from drf_spectacular.views import SpectacularAPIView
from rest_framework.routers import SimpleRouter

from accounts.api import PasswordView, SessionView
from cars.api import CarViewSet, ClaimViewSet, PackSpellViewSet, SetUpViewSet
from comparisons.api import ComparisonViewSet
from config.views import NothingHere
from courses.api import CourseViewSet
from days.api import CheckItemViewSet, PlannedRunViewSet, TestDayViewSet
from learning.api import PackView, StripCheckView
from plans.api import PlanViewSet
from recording.api import DeviceViewSet, HeadsUpViewSet, RecorderViewSet, RecordingViewSet
from recording.live import live
from runs.api import LogViewSet, RunViewSet, TracksView
from runs.attachment_api import AttachmentViewSet

router = SimpleRouter()
router.register("cars", CarViewSet, basename="car")
router.register("set-ups", SetUpViewSet, basename="set-up")
router.register("claims", ClaimViewSet, basename="claim")
router.register("pack-spells", PackSpellViewSet, basename="pack-spell")
router.register("courses", CourseViewSet, basename="course")
router.register("plans", PlanViewSet, basename="plan")
router.register("days", TestDayViewSet, basename="day")
router.register("planned-runs", PlannedRunViewSet, basename="planned-run")
router.register("check-items", CheckItemViewSet, basename="check-item")
router.register("logs", LogViewSet, basename="log")
router.register("runs", RunViewSet, basename="run")
router.register("devices", DeviceViewSet, basename="device")
router.register("recordings", RecordingViewSet, basename="recording")
router.register("recorders", RecorderViewSet, basename="recorder")
router.register("heads-ups", HeadsUpViewSet, basename="heads-up")
router.register("attachments", AttachmentViewSet, basename="attachment")
router.register("comparisons", ComparisonViewSet, basename="comparison")

urlpatterns = [
    path("api/session/", SessionView.as_view(), name="session"),
    path("api/session/password/", PasswordView.as_view(), name="password"),
    path("api/schema/", SpectacularAPIView.as_view(), name="schema"),
    path("api/recorders/<int:pk>/live/", live, name="live"),
    path("api/cars/<int:pk>/pack/", PackView.as_view(), name="car-pack"),
    path("api/courses/<int:pk>/strip-check/", StripCheckView.as_view(), name="course-strip-check"),
    path("api/courses/<int:pk>/tracks/", TracksView.as_view(), name="course-tracks"),
    path("api/", include(router.urls)),
    re_path(r"^api/", NothingHere.as_view()),
    path("admin/", admin.site.urls),
    re_path(r"^(?!api/|static/|admin/)", TemplateView.as_view(template_name="index.html"), name="web"),
]

handler400 = "config.errors.bad_request"
handler403 = "config.errors.forbidden"
handler404 = "config.errors.not_found"
handler500 = "config.errors.failed"
