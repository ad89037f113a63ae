from django.urls import path

from rapzel.timing import views

app_name = "timing"
urlpatterns = [
    path("scenes/<int:pk>/timing/", views.page, name="page"),
    path("scenes/<int:pk>/timing/rehearsal.jpg", views.picture, name="picture"),
    path("scenes/<int:pk>/timing/finger/", views.use_finger, name="finger"),
    path("scenes/<int:pk>/timing/recording/", views.recording, name="recording"),
    path("scenes/<int:pk>/timing/<slug:name>.svg", views.drawing, name="drawing"),
]
