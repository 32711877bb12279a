from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin
from aquifer.company.models import Company

admin.site.register(Company, LeadAdmin)
