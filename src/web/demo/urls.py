"""Addresses that exist only in demo mode."""

from django.urls import path

from web.demo.views import enter, reset

urlpatterns = [
    path("enter/", enter, name="demo-enter"),
    path("reset/", reset, name="demo-reset"),
]
