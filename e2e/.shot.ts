import { openBrowser, signIn } from '/work/main/e2e/browser.ts'
const [,, ...args]=process.argv
const {browser,close}=await openBrowser()
const page=await browser.newPage()
page.on('console',m=>{ if(['error','warn'].includes(m.type())) console.log('console',m.type(),m.text().slice(0,300))})
page.on('pageerror',e=>console.log('pageerror',String(e).slice(0,400)))
const A='http://127.0.0.1:4680'
if(args[0]==='door'){ await page.goto(A+'/sign-in'); await new Promise(r=>setTimeout(r,1200)); await page.screenshot({path:'/tmp/s-door.png'}); await close(); process.exit(0)}
await signIn(page,A,process.env.WHO??'lead','kittiwake-at-dawn')
for(const a of args){ const [name,path,js]=a.split('@@'); await page.goto(A+path); await new Promise(r=>setTimeout(r,1300)); if(js){ await page.evaluate(js); await new Promise(r=>setTimeout(r,900)) } await page.screenshot({path:`/tmp/s-${name}.png`}) }
await close()
