import { ENDPOINTS } from '@jurybox/api'
import { getOpenApi } from '@jurybox/api/docs'
import { openApi } from '../http/openapi.ts'
import { route } from '../http/route.ts'

export const docsRoutes = [route(getOpenApi, async ({ services }) => openApi(ENDPOINTS, services.build))]
