"""The addresses of signing in and out."""

from django.contrib.auth.views import LoginView, LogoutView, PasswordChangeView
from django.urls import path, reverse_lazy

app_name = "people"

urlpatterns = [
    path(
        "sign-in/",
        LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True),
        name="sign-in",
    ),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path(
        "password/",
        PasswordChangeView.as_view(
            template_name="people/password.html", success_url=reverse_lazy("notices:all")
        ),
        name="password",
    ),
]
