from django.urls import path

from rapzel.practice import views

app_name = "practice"
urlpatterns = [
    path("practice/", views.page, name="page"),
    path("practice/add/", views.add, name="add"),
    path("practice/drills.csv", views.export_csv, name="csv"),
    path("practice/<int:pk>/remove/", views.remove, name="remove"),
    path("practice/<int:pk>/take-back/", views.take_back, name="take_back"),
]
