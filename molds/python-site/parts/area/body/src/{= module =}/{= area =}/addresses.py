"""The addresses of the area."""

from django.urls import path

from . import pages

app_name = "{= area =}"

urlpatterns = [
    path("{= area.kebab =}/", pages.home, name="home"),
]
