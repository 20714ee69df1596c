"""Stock: pieces and lots, the species book, tables, labels. The list and a piece's own page are the verdict's (see judging)."""

from django.urls import path

from calm_heron.stock import views

urlpatterns = [
    path("new/", views.new_piece, name="new_piece"),
    path("grain/", views.grain, name="grain"),
    path("species/", views.species_book, name="species_book"),
    path("species/found/", views.species_found, name="species_found"),
    path("species/new/", views.new_species, name="new_species"),
    path("species/<str:key>/", views.own_figures, name="own_figures"),
    path("species/<str:key>/drop/", views.drop_species, name="drop_species"),
    path("several/", views.bulk, name="bulk"),
    path("labels/", views.labels, name="labels"),
    path("labels/labels.pdf", views.labels_pdf, name="labels_pdf"),
    path("table/", views.table_in, name="table_in"),
    path("table/stock.csv", views.table_out, name="table_out"),
    path("<str:tag>/change/", views.change_piece, name="change_piece"),
    path("<str:tag>/split/", views.split, name="split"),
    path("<str:tag>/take/", views.take, name="take"),
    path("<str:tag>/sample/", views.sample, name="sample"),
    path("<str:tag>/photos/", views.photos, name="photos"),
    path("<str:tag>/photos/<int:photo_id>/", views.photo, name="photo"),
    path("<str:tag>/photos/<int:photo_id>/remove/", views.remove_photo, name="remove_photo"),
]
