from django.urls import path

from rapzel.takes import views

app_name = "takes"
urlpatterns = [
    path("scenes/<int:pk>/takes/", views.take_list, name="list"),
    path("scenes/<int:pk>/takes/add/", views.add, name="add"),
    path("scenes/<int:pk>/takes.csv", views.export_csv, name="csv"),
    path("takes/<int:pk>/picture/", views.picture, name="picture"),
    path("takes/<int:pk>/remove/", views.remove, name="remove"),
    path("takes/<int:pk>/take-back/", views.take_back, name="take_back"),
]
