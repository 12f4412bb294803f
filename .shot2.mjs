import { chromium } from '@playwright/test';
const b = await chromium.launch({ executablePath:'/usr/bin/chromium', args:['--no-sandbox','--disable-gpu','--disable-background-networking']});
const p = await b.newPage({ viewport:{width:1280,height:800}});
p.on('pageerror', e=>console.log('ERR', e.message)); p.on('console', m=>{ if(m.type()==='error') console.log('console', m.text()) });
const base='http://localhost:4310';
await p.goto(base+'/'); await p.waitForTimeout(4500);
await p.goto(base+'/intake'); await p.waitForTimeout(1000);
await p.getByRole('button',{name:/Backup on the laptop 2|^2 Backup|Backup on the laptop/}).first().click(); await p.waitForTimeout(300);
await p.getByLabel('About Backup on the laptop').getByRole('button',{name:'Look there'}).click(); await p.waitForTimeout(5000);
await p.screenshot({path:'/tmp/w/j1.png'});
await p.goto(base+'/threads'); await p.waitForTimeout(1200);
await p.getByRole('button',{name:/Odile Marchetti/}).first().click(); await p.waitForTimeout(900);
for (let i=0;i<4;i++) { await p.keyboard.press('p'); await p.waitForTimeout(150);} 
await p.screenshot({path:'/tmp/w/j2.png'});
await p.goto(base+'/sources'); await p.waitForTimeout(900); await p.screenshot({path:'/tmp/w/j3.png'});
await p.goto(base+'/cases'); await p.waitForTimeout(900); await p.screenshot({path:'/tmp/w/j4.png'});
await p.goto(base+'/log'); await p.waitForTimeout(900); await p.screenshot({path:'/tmp/w/j5.png'});
await b.close();
