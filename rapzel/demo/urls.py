from django.urls import path

from rapzel.demo import views

app_name = "demo"
urlpatterns = [path("enter/", views.enter, name="enter")]
