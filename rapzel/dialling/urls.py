from django.urls import path

from rapzel.dialling import views

app_name = "dialling"
urlpatterns = [
    path("scenes/<int:pk>/dial-in/", views.page, name="page"),
    path("scenes/<int:pk>/dial-in/begin/", views.begin, name="begin"),
    path("scenes/<int:pk>/dial-in/outcome/", views.outcome, name="outcome"),
    path("scenes/<int:pk>/dial-in/value/", views.value, name="value"),
    path("scenes/<int:pk>/dial-in/undo/", views.undo, name="undo"),
    path("scenes/<int:pk>/dial-in/set-back/", views.set_back, name="set_back"),
    path("scenes/<int:pk>/dial-in/leave/", views.leave, name="leave"),
    path("scenes/<int:pk>/dial-in/resume/", views.resume, name="resume"),
    path("scenes/<int:pk>/dial-in/frame/", views.frame, name="frame"),
    path("scenes/<int:pk>/dial-in/fire/", views.fire, name="fire"),
    path("scenes/<int:pk>/dial-in/log/", views.log, name="log"),
    path("scenes/<int:pk>/dial-in/wake/", views.wake, name="wake"),
    path("scenes/<int:pk>/dial-in/unit/", views.unit, name="unit"),
    path("scenes/<int:pk>/dial-in/wanted.jpg", views.wanted, name="wanted"),
    path("shots/<int:pk>/picture.jpg", views.picture, name="picture"),
]
