from django.urls import path

from rapzel.guide import views

app_name = "guide"
urlpatterns = [
    path("", views.front, name="front"),
    path("try/", views.live, name="live"),
    path("try/<int:speed>/<int:power>.jpg", views.live_picture, name="live_picture"),
    path("help/", views.help_page, name="help"),
    path("help/words/", views.words_page, name="words"),
    path("help/words/<slug:key>/", views.word, name="word"),
    path("go.json", views.go, name="go"),
]
