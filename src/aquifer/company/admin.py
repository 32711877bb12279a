from django.contrib import admin

from aquifer.accounts.admin_site import OneRowAdmin
from aquifer.company.models import Company

admin.site.register(Company, OneRowAdmin)
