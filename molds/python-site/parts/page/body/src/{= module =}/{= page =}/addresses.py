"""The address of the page."""

from django.urls import path

from . import pages

app_name = "{= page =}"

urlpatterns = [
    path("{= page.kebab =}/", pages.show_form, name="form"),
]
