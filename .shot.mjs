import { chromium } from '@playwright/test';
const [,, base='http://localhost:4310', out='/tmp/w/a.png', path='/intake', w='1280', h='800', scheme='light', ...acts] = process.argv;
const b = await chromium.launch({ executablePath:'/usr/bin/chromium', args:['--no-sandbox','--disable-gpu','--disable-background-networking']});
const p = await b.newPage({ viewport:{width:+w,height:+h}, colorScheme: scheme });
p.on('pageerror', e=>console.log('ERR', e.message)); p.on('console', m=>{ if(m.type()==='error') console.log('console', m.text()) });
await p.goto(base+'/'); await p.waitForTimeout(4500);
await p.goto(base+path); await p.waitForTimeout(1500);
for (const a of acts) { const [k,...v]=a.split(':'); const arg=v.join(':');
 if(k==='click') await p.getByRole('button',{name:arg}).first().click(); if(k==='text') await p.getByText(arg).first().click(); if(k==='key') await p.keyboard.press(arg); if(k==='wait') await p.waitForTimeout(+arg); if(k==='scroll') await p.mouse.wheel(0,+arg); if (k==='select'){const [l,x]=arg.split('=');await p.getByLabel(l).first().selectOption(x)} if(k==='goto') {await p.goto(base+arg); await p.waitForTimeout(1200);} }
await p.waitForTimeout(400);
await p.screenshot({path:out}); await b.close();
