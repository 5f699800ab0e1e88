"""The addresses of the site: each area has its own below one of these."""

from django.contrib import admin
from django.urls import include, path

from .frame import health
from .notices import addresses as notices
from .people import addresses as people

# joint: imports (tinmold)

urlpatterns = [
    path("", include(notices)),
    path("", include(people)),
    # joint: addresses (tinmold)
    path("admin/", admin.site.urls),
    path("health", health.health),
    path("ready", health.ready),
]
