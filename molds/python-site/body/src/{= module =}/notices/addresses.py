"""The addresses of notices; the first page of the site lists them."""

from django.urls import path

from . import pages

app_name = "notices"

urlpatterns = [
    path("", pages.show_all, name="all"),
    path("notices/new/", pages.write, name="write"),
    path("notices/<int:notice_id>/", pages.show_one, name="one"),
    path("notices/<int:notice_id>/change/", pages.change, name="change"),
    path("notices/<int:notice_id>/remove/", pages.remove, name="remove"),
]
