"""Factories for test data."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import factory

from accounts.models import Role, User
from cars.models import Car, Setup
from courses.models import Course
from runs.models import Log, Measured, Run

PASSWORD = "quite-a-long-one"


class UserFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = User
        skip_postgeneration_save = True

    username = factory.Sequence("person{}".format)
    role = Role.TESTER
    password = factory.django.Password(PASSWORD)


class CarFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = Car

    name = factory.Sequence("Car {}".format)
    test_mass_kg = 1900


class SetupFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = Setup

    car = factory.SubFactory(CarFactory)
    name = factory.Sequence("Setup {}".format)
    since = date(2026, 4, 1)


class CourseFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = Course

    name = factory.Sequence("Strip {}".format)
    direction = "out"
    heading_deg = 68
    length_m = 1400
    runout_m = 300


class LogFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = Log

    sha256 = factory.Sequence("{:064x}".format)
    name = "made.nmea"
    size_bytes = 1000
    format = "nmea"
    fixes = 500
    rejected = 0
    rate_hz = 25
    start_utc = datetime(2026, 5, 9, 9, tzinfo=UTC)
    duration_s = 20
    core_version = "0"
    imported_by = factory.SubFactory(UserFactory)


class RunFactory(factory.django.DjangoModelFactory):
    class Meta:
        model = Run
        skip_postgeneration_save = True

    log = factory.SubFactory(LogFactory)
    setup = factory.SubFactory(SetupFactory)
    kind = "standing"
    # Passes of their own, ten seconds apart on one day.
    start_utc = factory.Sequence(lambda n: datetime(2026, 5, 9, 9, tzinfo=UTC) + timedelta(seconds=10 * (n % 3000)))
    start_s = factory.Sequence(float)
    complete = True
    peak_acceleration_g = 0.9
    peak_acceleration_u95_g = 0.02
    noise_mps = 0.05

    @factory.post_generation
    def sixty_s(self, create, extracted, **kwargs):
        """The run's 0-60 mph time on the rollout clock."""
        if extracted:
            Measured.objects.create(run=self, name="0-60 mph", clock="rollout", time_s=extracted, time_u95_s=0.01)
