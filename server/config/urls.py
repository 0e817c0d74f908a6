"""Addresses: the API, the OpenAPI schema, the admin, and the web application for everything else."""

from django.contrib import admin
from django.urls import include, path, re_path
from django.views.generic import RedirectView, TemplateView
from drf_spectacular.views import SpectacularAPIView, SpectacularSwaggerSplitView
from rest_framework.routers import SimpleRouter

from accounts import sign_in
from accounts.api import PasswordView, SessionView
from accounts.own_api import BrowsersView, BrowserView, SecondFactorConfirmView, SecondFactorOffView, SecondFactorView
from accounts.people_api import InvitationViewSet, LinkUseView, LinkView, PersonViewSet
from accounts.token_api import TokenViewSet
from cars.api import BatteryIntervalViewSet, CarViewSet, ManufacturerClaimViewSet, SetupViewSet
from comparisons.api import ComparisonViewSet
from config.health import live as live_health
from config.health import ready
from config.views import NothingHere
from courses.api import CourseViewSet
from days.api import ChecklistItemViewSet, ScheduledRunViewSet, TestDayViewSet, calendar_feed
from history.api import ActionViewSet
from home.api import HomeView
from learning.api import BatteryModelView, StripCheckView
from plans.api import PlanViewSet
from recording.api import DeviceViewSet, HeadsUpViewSet, RecorderViewSet, RecordingViewSet
from recording.live import live
from reports.api import ReportViewSet, ShareViewSet, SharingView, VersionViewSet
from reports.views import shared, shared_file
from runs.api import RunViewSet
from runs.attachment_api import AttachmentViewSet
from runs.layout_api import TableLayoutViewSet
from runs.log_api import ImportViewSet, LogViewSet
from runs.look_api import LookView
from runs.measures_api import MeasuresView
from runs.questions_api import QuestionsView
from runs.receiver_api import ReceiverViewSet
from runs.setup_api import MergeSetupView, SplitSetupView
from runs.tracks_api import TracksView
from studies.api import AllCarsView, OwnMeasureViewSet, OwnValueViewSet, StudyViewSet, TableViewViewSet
from webhooks.api import DeliveryViewSet, WebhookViewSet

# The application's pages have their addresses in the browser alone.
APPLICATION = r"^(?!api/|static/|admin/|shared/|calendar/|health/|sign-in/)"

router = SimpleRouter()
router.register("people", PersonViewSet, basename="person")
router.register("invitations", InvitationViewSet, basename="invitation")
router.register("tokens", TokenViewSet, basename="token")
router.register("cars", CarViewSet, basename="car")
router.register("setups", SetupViewSet, basename="setup")
router.register("manufacturer-claims", ManufacturerClaimViewSet, basename="manufacturer-claim")
router.register("battery-intervals", BatteryIntervalViewSet, basename="battery-interval")
router.register("courses", CourseViewSet, basename="course")
router.register("plans", PlanViewSet, basename="plan")
router.register("test-days", TestDayViewSet, basename="test-day")
router.register("scheduled-runs", ScheduledRunViewSet, basename="scheduled-run")
router.register("checklist-items", ChecklistItemViewSet, basename="checklist-item")
router.register("logs", LogViewSet, basename="log")
router.register("table-layouts", TableLayoutViewSet, basename="table-layout")
router.register("imports", ImportViewSet, basename="import")
router.register("runs", RunViewSet, basename="run")
router.register("receivers", ReceiverViewSet, basename="receiver")
router.register("devices", DeviceViewSet, basename="device")
router.register("recordings", RecordingViewSet, basename="recording")
router.register("recorders", RecorderViewSet, basename="recorder")
router.register("heads-up-runs", HeadsUpViewSet, basename="heads-up-run")
router.register("attachments", AttachmentViewSet, basename="attachment")
router.register("actions", ActionViewSet, basename="action")
router.register("comparisons", ComparisonViewSet, basename="comparison")
router.register("studies", StudyViewSet, basename="study")
router.register("own-measures", OwnMeasureViewSet, basename="own-measure")
router.register("own-values", OwnValueViewSet, basename="own-value")
router.register("table-views", TableViewViewSet, basename="table-view")
router.register("reports", ReportViewSet, basename="report")
router.register("report-versions", VersionViewSet, basename="report-version")
router.register("shares", ShareViewSet, basename="share")
router.register("webhooks", WebhookViewSet, basename="webhook")
router.register("webhook-deliveries", DeliveryViewSet, basename="webhook-delivery")

urlpatterns = [
    path("api/v1/session/", SessionView.as_view(), name="session"),
    path("api/v1/session/password/", PasswordView.as_view(), name="password"),
    path("api/v1/session/browsers/", BrowsersView.as_view(), name="browsers"),
    path("api/v1/session/browsers/<str:mark>/", BrowserView.as_view(), name="browser"),
    path("api/v1/session/second-factor/", SecondFactorView.as_view(), name="second-factor"),
    path("api/v1/session/second-factor/confirm/", SecondFactorConfirmView.as_view(), name="second-factor-confirm"),
    path("api/v1/session/second-factor/off/", SecondFactorOffView.as_view(), name="second-factor-off"),
    path("api/v1/session/link/", LinkView.as_view(), name="link"),
    path("api/v1/session/link/use/", LinkUseView.as_view(), name="link-use"),
    path("api/schema/", SpectacularAPIView.as_view(), name="schema"),
    path("api/docs/", SpectacularSwaggerSplitView.as_view(url_name="schema"), name="api-docs"),
    path("api/v1/home/", HomeView.as_view(), name="home"),
    path("api/v1/all-cars/", AllCarsView.as_view(), name="all-cars"),
    path("api/v1/measures/", MeasuresView.as_view(), name="measures"),
    path("api/v1/looks/", LookView.as_view(), name="looks"),
    path("api/v1/questions/", QuestionsView.as_view(), name="questions"),
    path("api/v1/recorders/<int:pk>/live/", live, name="live"),
    path("api/v1/cars/<int:pk>/battery-model/", BatteryModelView.as_view(), name="car-battery-model"),
    path("api/v1/courses/<int:pk>/strip-check/", StripCheckView.as_view(), name="course-strip-check"),
    path("api/v1/courses/<int:pk>/tracks/", TracksView.as_view(), name="course-tracks"),
    path("api/v1/setups/<int:pk>/merge/", MergeSetupView.as_view(), name="setup-merge"),
    path("api/v1/setups/<int:pk>/split/", SplitSetupView.as_view(), name="setup-split"),
    path("api/v1/sharing/", SharingView.as_view(), name="sharing"),
    path("api/v1/", include(router.urls)),
    re_path(r"^api/", NothingHere.as_view()),
    path("shared/<str:secret>/", shared, name="shared"),
    re_path(r"^shared/(?P<secret>[\w-]+)/(?P<kind>html|pdf|package)/(?P<number>[0-9]{1,5})/$", shared_file),
    path("calendar/<str:secret>.ics", calendar_feed, name="calendar-feed"),
    path("sign-in/", sign_in.begin, name="sign-in"),
    path(sign_in.BACK[1:], sign_in.back, name="sign-in-back"),
    path("admin/login/", RedirectView.as_view(url="/")),  # one log-in, with its second factor
    path("admin/", admin.site.urls),
    path("health/live", live_health, name="health-live"),
    path("health/ready", ready, name="health-ready"),
    path("worker.js", TemplateView.as_view(template_name="worker.js", content_type="text/javascript"), name="worker"),
    re_path(APPLICATION, TemplateView.as_view(template_name="index.html"), name="web"),
]

handler400 = "config.errors.bad_request"
handler403 = "config.errors.forbidden"
handler404 = "config.errors.not_found"
handler500 = "config.errors.failed"
